"""Photographs: reading, writing, profiles, pyramids."""

from retouch.picture.model import Picture
from retouch.picture.pyramid import Pyramid
from retouch.picture.read import read, read_bytes
from retouch.picture.write import Output, encode, format_of, write

__all__ = ["Output", "Picture", "Pyramid", "encode", "format_of", "read", "read_bytes", "write"]
