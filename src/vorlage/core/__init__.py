"""The rules and the computation of Vorlage; knows nothing of the web or the database."""
