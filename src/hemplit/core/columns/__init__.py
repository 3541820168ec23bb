"""Columns as integer codes: the operations on which all heavy work rests, and which rows name each other."""
