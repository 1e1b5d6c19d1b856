"""Heard against asked: which note is which, and where the beats lie."""
