"""Campaigns of bad input: seeded, counted, bounded in time. ``scripts/fuzz`` runs them."""
