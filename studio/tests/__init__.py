"""Tests of the web application through its interface of HTTP, and in a real browser."""
