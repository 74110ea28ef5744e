"""Joining finished documents into one, with everything that makes them accessible: the structure of every page stays,
and so do the words of every formula and figure."""

from __future__ import annotations

import io
from collections.abc import Iterable
from typing import BinaryIO

from pikepdf import Array, Dictionary, Name, Object, ObjectStreamMode, OutlineItem, Pdf

# What a document says of itself as a whole, taken from the first.
OF_THE_WHOLE = (Name.Lang, Name.MarkInfo, Name.ViewerPreferences, Name.Metadata)


def joined(documents: Iterable[tuple[str, bytes]], into: BinaryIO) -> None:
    """Write one PDF with the pages of all, each under a bookmark with its name where it has one.

    The same documents give the same bytes. What the whole says of itself, its title among it, the first says.
    """
    whole, marks = Pdf.new(), list[OutlineItem]()
    structure = whole.make_indirect(Dictionary(Type=Name.StructTreeRoot, K=Array()))
    parents, first_key = Array(), 0
    for name, content in documents:
        with Pdf.open(io.BytesIO(content)) as part:
            first = len(whole.pages)
            whole.pages.extend(part.pages)
            if first == 0:
                for key in OF_THE_WHOLE:
                    if key in part.Root:
                        whole.Root[key] = whole.copy_foreign(part.make_indirect(part.Root[key]))
                whole.docinfo.update({key: str(value) for key, value in part.docinfo.items()})
            # the pages are there already: what speaks of them speaks of their copies
            tree = whole.copy_foreign(part.make_indirect(part.Root.StructTreeRoot))
            first_key = graft(tree, structure, parents, first_key)
            for number in range(first, len(whole.pages)):
                renumber(whole.pages[number].obj, first_key - int(tree.ParentTreeNextKey))
            if name:
                marks.append(OutlineItem(name, first))
    structure.ParentTree = whole.make_indirect(Dictionary(Nums=parents))
    structure.ParentTreeNextKey = first_key
    whole.Root.StructTreeRoot = structure
    if marks:
        with whole.open_outline() as outline:
            outline.root.extend(marks)
    whole.save(into, deterministic_id=True, object_stream_mode=ObjectStreamMode.generate)


def graft(tree: Object, structure: Object, parents: Array, first_key: int) -> int:
    """Hang the structure of a document into that of the whole; the first key that is free then."""
    if Name.RoleMap in tree:
        roles = structure.get(Name.RoleMap, Dictionary())
        for role, meaning in tree.RoleMap.items():
            roles[role] = meaning
        structure.RoleMap = roles
    for element in tree.K if isinstance(tree.K, Array) else [tree.K]:
        element.P = structure
        structure.K.append(element)
    numbers = list(tree.ParentTree.Nums)
    for key, owners in zip(numbers[::2], numbers[1::2]):
        parents.append(int(key) + first_key)
        parents.append(owners)
    return first_key + int(tree.ParentTreeNextKey)


def renumber(page: Object, by: int) -> None:
    """Let a page, and what on it belongs to the structure by itself, speak of its new keys."""
    for key in (Name.StructParents, Name.StructParent):
        if key in page:
            page[key] = int(page[key]) + by
    drawn = page.get(Name.Resources, Dictionary()).get(Name.XObject, Dictionary())
    for inner in (*page.get(Name.Annots, Array()), *(each for _, each in drawn.items())):
        for key in (Name.StructParents, Name.StructParent):
            if key in inner:
                inner[key] = int(inner[key]) + by
