"""Eyes, teeth, lips, brows and lashes: lighter, calmer, crisper, and never past what is natural."""
