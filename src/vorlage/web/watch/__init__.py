"""What a technician watches: the log with a line for every fault and everything slow, and an address that says whether
all is well."""
