"""A simulated transceiver and the receivers that hear it: signal in, meters and sound out."""
