"""Even: skin smoothed in bands while its texture stays, redness, colour, shine, shadows, lines."""
