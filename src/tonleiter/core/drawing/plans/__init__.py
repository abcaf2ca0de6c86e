"""Drawing plans, made by hand: one for each kind of gear."""
