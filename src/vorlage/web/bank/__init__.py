"""Questions and their revisions: kept, found, compared."""
