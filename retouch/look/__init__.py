"""Light and colour of the whole picture: exposure, tone, white balance, saturation, curves."""
