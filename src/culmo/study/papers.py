"""The papers that the painter owns: named, with their size, tooth, tone and gutter."""

import re
from dataclasses import dataclass

from culmo.core.chart.papers import PAPERS, Paper
from culmo.core.chart.run import PAPERS as TOOTHS
from culmo.errors import CulmoError
from culmo.study.draft import Draft
from culmo.study.file import Command, Row, Study
from culmo.words import mark, tr

USUAL_TOOTH = "cold pressed"
LONGEST_NAME = 60
# the tones that papers are sold in, as the sheet's ground is drawn on the screen
TONES = {
    "": "#f7f6f1", mark("bright white"): "#fdfdfd", mark("natural white"): "#f4eedd", mark("cream"): "#efe3c8",
    mark("grey"): "#cfccc6", mark("tan"): "#d3bd9c",
}  # fmt: skip
_HEX = re.compile(r"#[0-9a-f]{6}")


@dataclass(frozen=True)
class OwnPaper:
    """A paper that the painter owns.

    Attributes
    ----------
    paper : Paper, its name and size
    tooth : str, "smooth", "cold pressed" or "rough": how long washes stay wet on it
    tone : str, a key of TONES, or "#rrggbb"
    gutter_mm : float, what a spiral or a fold takes at the left of a sketchbook's page
    id : int, its row; 0 while it is not kept
    """

    paper: Paper
    tooth: str = USUAL_TOOTH
    tone: str = ""
    gutter_mm: float = 0.0
    id: int = 0

    def __post_init__(self) -> None:
        name = self.paper.name.strip()
        if not name or len(name) > LONGEST_NAME or not name.isprintable():
            raise CulmoError(tr("the paper needs a name of at most {n} letters", n=LONGEST_NAME))
        if self.tooth not in TOOTHS:
            raise CulmoError(
                tr(
                    'the tooth is "{tooth}"; it must be one of {what}',
                    tooth=self.tooth,
                    what=", ".join(TOOTHS),
                )
            )
        if self.tone not in TONES and not _HEX.fullmatch(self.tone):
            raise CulmoError(
                tr(
                    'the tone is "{tone}"; it must be one of {what}, or a colour such as #f4eedd',
                    tone=self.tone,
                    what=", ".join(tr(tone) for tone in TONES if tone),
                )
            )
        if not 0.0 <= self.gutter_mm <= self.paper.width_mm / 2:
            raise CulmoError(tr("a gutter takes no more than half of the page"))

    @property
    def colour(self) -> str:
        """Its tone as #rrggbb."""
        return TONES.get(self.tone, self.tone)


def own_papers(study: Study) -> list[OwnPaper]:
    """The painter's papers, by name."""
    return [_of_row(row) for row in study.rows("papers", order="name COLLATE NOCASE, id")]


def _of_row(row: Row) -> OwnPaper:
    paper = Paper(row["name"], row["width_mm"], row["height_mm"])
    tone = row["tone"] if row["tone"] in TONES or _HEX.fullmatch(row["tone"]) else ""
    tooth = row["tooth"] if row["tooth"] in TOOTHS else USUAL_TOOTH
    gutter = min(max(float(row["gutter_mm"]), 0.0), paper.width_mm / 2)
    return OwnPaper(paper, tooth, tone, gutter, row["id"])


def own_paper(study: Study, name: str) -> OwnPaper | None:
    """The painter's paper of this name, in whatever case."""
    folded = name.strip().casefold()
    return next((own for own in own_papers(study) if own.paper.name.casefold() == folded), None)


def keep_paper(study: Study, own: OwnPaper) -> Command:
    """A new paper, or other particulars of one that is there; sheets that were planned on it stay as they are.

    Raises
    ------
    CulmoError
        when another has the name, or it is that of a common paper of another size
    """
    name = own.paper.name.strip()
    other = own_paper(study, name)
    if other is not None and other.id != own.id:
        raise CulmoError(tr('there is a paper named "{name}" already', name=name))
    common = next((paper for paper in PAPERS if paper.name.casefold() == name.casefold()), None)
    if common is not None and _sides(common) != _sides(own.paper):
        raise CulmoError(
            tr('"{name}" is the name of a common paper of another size; give yours another', name=name)
        )
    values = {
        "name": name, "width_mm": own.paper.width_mm, "height_mm": own.paper.height_mm, "tooth": own.tooth,
        "tone": own.tone, "gutter_mm": own.gutter_mm,
    }  # fmt: skip
    if own.id:
        draft = Draft(study, tr("Change paper {name}", name=name))
        draft.edit("papers", own.id, **values)
    else:
        draft = Draft(study, tr("Add paper {name}", name=name))
        draft.add("papers", note="", **values)
    return draft.command()


def _sides(paper: Paper) -> tuple[float, ...]:
    return tuple(sorted((round(paper.width_mm, 1), round(paper.height_mm, 1))))


def remove_paper(study: Study, paper_id: int) -> Command:
    """A paper is used up; sheets that were planned on it stay as they are."""
    row = study.row("papers", paper_id)
    draft = Draft(study, tr("Remove paper {name}", name=row["name"]))
    draft.remove("papers", row)
    return draft.command()
