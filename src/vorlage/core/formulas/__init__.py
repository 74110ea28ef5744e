"""The formula book, and the search for the formula that a fixed question has been made with.

``book`` is what school mathematics, physics and chemistry print; ``Matching`` gives the numbers of a text to the
letters of its formulas; ``Search`` builds formulas freely where the book has none.
"""

from .book import (
    Book,
    Constant,
    Formula,
    Kind,
    Letter,
    Solved,
    book,
    isolated,
    load_book,
    quick_function,
    search_book,
    stem,
)
from .fitting import Fitting, fitting
from .fixed import FoundNumber, Goal, VaryingError, found_numbers, given_answer, varied
from .lists import list_formulas
from .matching import Match, Matching
from .search import Search

__all__ = [
    "Book",
    "Constant",
    "Fitting",
    "Formula",
    "FoundNumber",
    "Goal",
    "Kind",
    "Letter",
    "Match",
    "Matching",
    "Search",
    "Solved",
    "VaryingError",
    "book",
    "fitting",
    "found_numbers",
    "given_answer",
    "isolated",
    "list_formulas",
    "load_book",
    "quick_function",
    "search_book",
    "stem",
    "varied",
]
