"""Questions from elsewhere and on their way elsewhere: plain text, tables, archives of documents.

Everything that is brought in becomes a ``Drafted`` first, which is looked at before anything is kept.
"""
