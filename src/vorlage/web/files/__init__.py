"""Made files, their pages and uploaded pictures, kept by what is in them and outside the rows that refer to them."""
