"""The same care for many portraits: orders that any process can carry out, on this machine or others."""
