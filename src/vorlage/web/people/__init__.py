"""People, departments and who may do what."""
