"""Every kind of yardstick, each once; a new one is a file of this room and a line here."""

from __future__ import annotations

from bridge_chart.answers.against.by_table import Growth
from bridge_chart.answers.against.claim import Predicted, Target
from bridge_chart.answers.against.earlier import EarlierSitting, relative
from bridge_chart.answers.against.group import Group
from bridge_chart.answers.against.nation import Nation
from bridge_chart.answers.against.prior import WhereTheyStarted
from bridge_chart.answers.against.threshold import Threshold
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.terms import question as q

KINDS = (WhereTheyStarted, Target, Predicted, Nation, EarlierSitting, Group, Growth, Threshold)


def bind_yardstick(asked: q.Yardstick, own: Quantity, binding: Binding) -> Yardstick:
    """The yardstick of one quantity, with concrete measures."""
    key = kind_of(asked)
    kind = next((kind for kind in KINDS if kind.kind == key), None)
    if kind is None:
        raise not_yet(f"the yardstick “{key}”")
    return kind.bind(asked, own, binding)  # type: ignore[arg-type]


def kind_of(asked: q.Yardstick) -> str:
    """The one key of a yardstick."""
    return next(iter(type(asked).model_fields))


def finds_its_own(asked: q.Yardstick) -> bool:
    """Whether each of several quantities finds its own, so that it is kept as it was asked."""
    if isinstance(asked, q.AgainstPrior):
        return asked.prior.priors == "declared"
    if isinstance(asked, q.AgainstGrowthTable):
        return relative(asked.growth_table.from_)
    return isinstance(asked, q.AgainstEarlier) and relative(asked.earlier.measure)
