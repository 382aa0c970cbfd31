"""Made-up people and what the demo begins with."""
