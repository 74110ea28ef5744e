"""Marking: what needs an eye, groups of equal answers, marks and comments by hand."""
