"""Parts of a face taken from another picture: laid over this one, matched in light, joined."""
