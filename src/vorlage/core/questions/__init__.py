"""The question document, and what becomes of it when values are drawn.

``load_document`` checks a JSON object; ``Question`` compiles it and names every problem with its place;
``Question.drawing`` gives draws; ``diagnose`` says what is ugly about them.
"""

from ..formulas import Unusable, varied
from .diagnostics import TrialResult, Warning, diagnose, pinned_draws, run_trials, self_check, unworked
from .differences import Difference, differences
from .document import DataTable, DocumentError, Parameter, Part, PartLabel, QuestionDocument, load_document, schema
from .drawn import DrawnQuestion, printed_picture
from .giveaways import Demand
from .question import Problem, Question, QuestionDrawing
from .survey import Spread, Survey, survey
from .text import QuestionText, lone_span
from .varying import FoundFormula, Proposal, keeping_sign, propose, read_named

__all__ = [
    "DataTable",
    "Demand",
    "Difference",
    "DocumentError",
    "DrawnQuestion",
    "FoundFormula",
    "Parameter",
    "Part",
    "PartLabel",
    "Problem",
    "Proposal",
    "Question",
    "QuestionDocument",
    "QuestionDrawing",
    "QuestionText",
    "Spread",
    "Survey",
    "TrialResult",
    "Unusable",
    "Warning",
    "diagnose",
    "differences",
    "keeping_sign",
    "load_document",
    "lone_span",
    "pinned_draws",
    "printed_picture",
    "propose",
    "read_named",
    "run_trials",
    "schema",
    "self_check",
    "survey",
    "unworked",
    "varied",
]  # fmt: skip
