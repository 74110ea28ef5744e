"""The question document, and what becomes of it when values are drawn.

``load_document`` checks a JSON object of any format that ever was; ``Question`` compiles it and names every problem
with its place; ``Question.drawing`` gives draws; ``soundness`` decides whether it may be kept.
"""

from ..formulas import VaryingError, varied
from .cautions import Caution
from .diagnostics import TrialResult, diagnose, run_trials, unworked
from .differences import Difference, differences
from .document import (
    DataTable,
    DocumentError,
    Fault,
    Parameter,
    Part,
    PartLabel,
    QuestionDocument,
    load_document,
    load_filed,
    schema,
)
from .drawing import QuestionDrawing
from .drawn import DrawnQuestion
from .facts import Facts, facts, words_of
from .filing import (
    ARROW,
    DEEP,
    DEMANDS,
    LEVELS,
    Filing,
    FoundTopics,
    folded,
    listed,
    read_paths,
    topics_meant,
    written_paths,
)
from .frozen import FrozenDraw, freeze, thaw
from .giveaways import Demand
from .identities import adopted, says_the_same
from .local import to_point
from .number_work import COMPONENTS, NumberWork
from .proof import Proof, prints_of, prove
from .question import CompiledQuestion, Problem
from .soundness import LOOKED_AT, Soundness, Unsound, soundness, too_costly
from .survey import Extreme, Spread, Survey, survey
from .unmeant import unmeant
from .upgrades import FORMAT, upgraded
from .varying import FoundFormula, Proposal, Varied, close_enough, keeping_sign, propose, read_named, varied_by
from .worth import worth
from .writing import key_picture, pictures, span, spoken, written, written_part, written_solution

__all__ = [
    "ARROW",
    "COMPONENTS",
    "DEEP",
    "DEMANDS",
    "FORMAT",
    "LEVELS",
    "LOOKED_AT",
    "Caution",
    "CompiledQuestion",
    "DataTable",
    "Demand",
    "Difference",
    "DocumentError",
    "DrawnQuestion",
    "Extreme",
    "Facts",
    "Fault",
    "Filing",
    "FoundFormula",
    "FoundTopics",
    "FrozenDraw",
    "NumberWork",
    "Parameter",
    "Part",
    "PartLabel",
    "Problem",
    "Proof",
    "Proposal",
    "QuestionDocument",
    "QuestionDrawing",
    "Soundness",
    "Spread",
    "Survey",
    "TrialResult",
    "Unsound",
    "Varied",
    "VaryingError",
    "adopted",
    "close_enough",
    "diagnose",
    "differences",
    "facts",
    "folded",
    "freeze",
    "keeping_sign",
    "key_picture",
    "listed",
    "load_document",
    "load_filed",
    "pictures",
    "prints_of",
    "propose",
    "prove",
    "read_named",
    "read_paths",
    "run_trials",
    "says_the_same",
    "schema",
    "soundness",
    "span",
    "spoken",
    "survey",
    "thaw",
    "to_point",
    "too_costly",
    "topics_meant",
    "unmeant",
    "unworked",
    "upgraded",
    "varied",
    "varied_by",
    "words_of",
    "worth",
    "written",
    "written_part",
    "written_paths",
    "written_solution",
]
