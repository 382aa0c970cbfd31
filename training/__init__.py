"""How the weights of the zones' parser were made (training/README.md)."""
