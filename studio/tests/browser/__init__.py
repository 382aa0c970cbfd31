"""Tests in a real Chromium: controls found by role and label, pixels compared."""
