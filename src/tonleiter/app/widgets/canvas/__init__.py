"""Parts that all painted views share: axes, brackets, gauges, steps and ribbons, words that fit."""
