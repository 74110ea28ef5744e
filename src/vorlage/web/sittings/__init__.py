"""Sittings: a test given to classes, sat on screen, saved change by change, marked on handing in."""
