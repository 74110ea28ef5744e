"""Classes and their students: class lists, sign-ins, allowances."""
