"""What the window asks of portraits: forms in and out, errors in plain words."""
