"""The same care for many portraits: runs, their review, routines of one's own."""
