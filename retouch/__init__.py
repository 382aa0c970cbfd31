"""The heart of Mellow Glass: computation on portraits, free of any interface."""

__version__ = "0.1.0"
