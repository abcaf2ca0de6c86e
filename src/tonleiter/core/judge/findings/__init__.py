"""What is wrong or right with a chain, and edits that would mend it.

Each rule module has a ``rules`` tuple of functions from a Case to findings; ``assess.py`` runs all.
"""
