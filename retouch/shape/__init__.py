"""Shape: what is moved, as fields of displacements that are composed into the one map."""
