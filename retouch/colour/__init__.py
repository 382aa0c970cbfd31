"""Colour: spaces from profiles, transfer curves, CIELAB, differences, curves and blend modes."""
