"""The jump field, which reads everything and writes nothing."""
