"""A form that is sent twice does its work once."""
