"""The web application: it keeps, shows and asks; everything that is computed is computed in core."""
