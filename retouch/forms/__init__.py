"""Edits as JSON: parsing, refusals in words, the schema, older versions, lenient opening."""
