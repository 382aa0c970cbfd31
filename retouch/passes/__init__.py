"""The kinds of pass, one module each, and the registry that all else asks about them."""
