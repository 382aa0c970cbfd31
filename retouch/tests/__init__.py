"""Tests of the core, without Django."""
