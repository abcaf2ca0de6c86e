"""Plan it: search topologies and values for a source on an input, solve all, offer the best."""
