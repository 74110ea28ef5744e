"""The formula book, and the search for the formula that a fixed question has been made with.

``book`` is what school mathematics, physics and chemistry print; ``Matching`` gives the numbers of a text to the
letters of its formulas; ``Search`` builds formulas freely where the book has none.
"""

from .book import Book, Constant, Formula, Letter, book, isolated, quick_function
from .fixed import FoundNumber, Goal, Unusable, found_numbers, given_answer, proposed_range, varied
from .lists import ListFormula, list_formulas
from .matching import Match, Matching
from .search import Search

__all__ = [
    "Book",
    "Constant",
    "Formula",
    "FoundNumber",
    "Goal",
    "Letter",
    "ListFormula",
    "Match",
    "Matching",
    "Search",
    "Unusable",
    "book",
    "found_numbers",
    "given_answer",
    "isolated",
    "list_formulas",
    "proposed_range",
    "quick_function",
    "varied",
]
