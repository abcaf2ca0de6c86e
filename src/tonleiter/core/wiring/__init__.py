"""From the solved chain to plugs and conductors: shells, pinouts, builds, net lists."""
