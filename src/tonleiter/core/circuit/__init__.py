"""The solver: elements, DC by Newton, AC and noise batched over frequency, netlist cards.

Knows circuits only. Microphones, cables and radios are built from these elements in ``core.gear``.
"""
