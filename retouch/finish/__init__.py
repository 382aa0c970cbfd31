"""The last look: split toning, mono, soft light, sharpening, vignette, grain."""
