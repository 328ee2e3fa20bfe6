"""Who of a question sat a form of a test, group by group, with their marks by question."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.what.sheets import Sheet, sheet_of
from bridge_chart.answers.what.taught import taught
from bridge_chart.core.arrays import Codes, Mask
from bridge_chart.terms.errors import InvalidQuestion


@dataclass(frozen=True)
class Sat:
    """Those of a question who sat the form: a mask for each group over the rows of the sheet."""

    sheet: Sheet
    members: Mask
    others: Mask | None
    classes: Codes

    @property
    def everyone(self) -> Mask:
        inside = np.asarray(self.members.any(axis=0))
        return inside if self.others is None else inside | self.others


def sat_by(part: Slice) -> Sat:
    """Those of a question who sat the form that is looked into."""
    view = part.view
    size = view.snapshot.students
    others = None
    if view.yardstick is not None:
        if not view.yardstick.is_group:
            raise InvalidQuestion(
                "Questions are held against others who sat them, or against nothing.",
                next_step="Choose a group as the yardstick, or everyone else like them.",
            )
        group = view.yardstick.group(size)
        assert group is not None
        others = group & view.meant
    sheet = sheet_of(view.snapshot, view.quantity.key, view.quantity.form)
    place = np.full(size, -1, np.int64)
    place[sheet.at] = np.arange(len(sheet.at))
    members = np.zeros((len(part.grouping.groups), len(sheet.at)), bool)
    where = place[np.asarray(part.grouping.at)]
    held = where >= 0
    members[np.asarray(part.grouping.code)[held], where[held]] = True
    classes = taught(view.snapshot, view.quantity.key).classes[sheet.at]
    return Sat(sheet, members, None if others is None else others[sheet.at], classes)
