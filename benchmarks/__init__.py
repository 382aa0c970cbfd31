"""What is claimed of quality and speed, measured beside references: `./run bench`."""
