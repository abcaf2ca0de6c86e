"""A computer with its sound devices as it stands in a chain: devices, defaults, levels, keying."""
