"""The Set space: a simulated radio on the computed chain, and the guide that turns its knobs."""
