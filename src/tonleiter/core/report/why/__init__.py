"""Why a figure is what it is on this station: step by step, out of the solution."""
