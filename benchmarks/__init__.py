"""Speed as ratios, measured in one run. ``scripts/benchmark`` runs all."""
