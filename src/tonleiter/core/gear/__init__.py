"""Pieces of gear: one module per family, with its model, its figures and its circuit.

To add a kind: write a model derived from ``Gear`` with a ``build`` method, and list it in
``catalogue.py``. Nothing else in the core names kinds.
"""
