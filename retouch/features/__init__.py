"""Features: eyes, teeth, lips, brows, hair, make-up, glasses and cloth, changed within what is natural."""
