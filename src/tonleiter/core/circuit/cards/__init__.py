"""Reading and writing circuits in the common netlist card syntax."""
