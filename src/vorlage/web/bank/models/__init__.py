"""The bank: questions and their revisions, how they are filed, found and collected."""

from .collecting import Collected, Done, Pool, Pooled
from .finding import Found, KeptSearch, Word, Worded
from .proofs import Proved
from .questions import Judged, MarksField, Picture, Question, Revision, Rubric
from .topics import HEIGHTS, Filed, Topic, Tree

__all__ = [
    "HEIGHTS",
    "Collected",
    "Done",
    "Filed",
    "Found",
    "Judged",
    "KeptSearch",
    "MarksField",
    "Picture",
    "Pool",
    "Pooled",
    "Proved",
    "Question",
    "Revision",
    "Rubric",
    "Topic",
    "Tree",
    "Word",
    "Worded",
]
