"""What goes onto a shop slip."""

import numpy as np

from culmo.core.colour.difference import delta_e_00
from culmo.core.paint.label import KEEPS
from culmo.core.paint.pigments import Pigment, codes_in
from culmo.core.palette.missing import SECTORS
from culmo.core.palette.mixer import PAIR_WASHES, chroma_of, hue_of
from culmo.data import pigment_table
from culmo.desk.drawing.shop_slip import ShopSlip, WantedTube, have_in
from culmo.desk.rooms.box.findings import Findings
from culmo.words import capital, tr

_HALF_RANGE_DEG = 34.0
_LOOKS_ALIKE = 9.0
_GREY = 10.0


def shop_slip(found: Findings, sector: int | None, codes: dict[str, str]) -> ShopSlip:
    """The slip for a range of hues, or for the whole box.

    Parameters
    ----------
    found : Findings
    sector : int, place in SECTORS; None for the whole box, where nothing is missing
    codes : from paint name to its codes
    """
    if sector is None:
        return _whole_box(found, codes)
    middle = (5.0 + 30.0 * sector + 15.0) % 360.0
    low, high = middle - _HALF_RANGE_DEG, middle + _HALF_RANGE_DEG
    box = found.mixer.only(found.names)
    lab = box.lab(np.eye(len(box.names)), PAIR_WASHES)[:, 1] if box.names else np.zeros((0, 3))
    clear = [i for i in range(len(box.names)) if chroma_of(lab[i]) > _GREY]
    have = have_in([box.names[i] for i in clear], [float(hue_of(lab[i])) for i in clear], low, high)
    gap = next((gap for gap in found.gaps if gap.sector == sector), None)
    wanted, avoid = _pigments(found, sector, low, high, codes, have)
    title = capital(tr(SECTORS[sector]))
    words = (
        gap.sentence[:1].upper() + gap.sentence[1:] + "." if gap else tr("No gap here; for comparing only.")
    )
    return ShopSlip(title, have, words, wanted, avoid)


def _whole_box(found: Findings, codes: dict[str, str]) -> ShopSlip:
    """What one has, what of it might be replaced and by what, what would add most, and what one has already."""
    table, verdict = pigment_table(), found.verdict
    words = tr(
        "{n} paints reach {full:.0f} % of what a well-filled box reaches. {character}",
        n=len(found.names), full=100 * found.full, character=verdict.character,
    )  # fmt: skip
    instead = [(code, tr("for {name}", name=weak.name)) for weak in verdict.weak for code in weak.codes[:1]]
    more = [(entry.code, entry.words) for entry in found.additions]
    wanted = {code: f"{table[code].name}, {why}" for code, why in instead}
    wanted |= {code: why for code, why in more if code not in wanted}
    owned = dict.fromkeys(code for name in found.names for code in codes_in(codes.get(name, "")))
    avoid = [tr("You have already: {codes}", codes=", ".join(owned))] if owned else []
    tired = [f"{weak.name}: {weak.reasons[0]}" for weak in verdict.weak]
    looked_for = tuple(
        WantedTube(code, words, table[code].masstone, table[code].tint)
        for code, words in list(wanted.items())[:5]
    )
    return ShopSlip(tr("The whole box"), tuple(found.names), words, looked_for, (*tired[:3], *avoid))


def _pigments(
    found: Findings, sector: int, low: float, high: float, codes: dict[str, str], have: tuple[str, ...]
) -> tuple[tuple[WantedTube, ...], tuple[str, ...]]:
    table = pigment_table()
    owned = {code for text in codes.values() for code in codes_in(text)}
    inside = [
        pigment
        for pigment in table.values()
        if chroma_of(np.array(pigment.tint)) > _GREY
        and (hue_of(np.array(pigment.tint)) - low) % 360.0 <= (high - low) % 360.0
    ]
    good = [p.code for p in inside if p.lightfastness in KEEPS and p.code not in owned]
    good.sort(key=lambda code: (-float(chroma_of(np.array(table[code].tint))), code))
    names = [more.code for more in found.additions if more.code in good]
    chosen = list(dict.fromkeys([*names, *(code for code in good if table[code].sure != "rough")]))[:5]
    wanted = tuple(
        WantedTube(code, table[code].name, table[code].masstone, table[code].tint) for code in chosen
    )
    avoid = [
        tr("{code}: fades ({lightfastness})", code=p.code, lightfastness=tr(p.lightfastness))
        for p in inside
        if p.lightfastness in ("poor", "fair")
    ]
    avoid += [
        tr("{code}: you have it in {name}", code=code, name=name)
        for name in have
        for code in codes_in(codes.get(name, ""))
    ]
    avoid += _too_near(inside, owned, chosen, table)
    return wanted, tuple(avoid[:8])


def _too_near(
    inside: list[Pigment], owned: set[str], chosen: list[str], table: dict[str, Pigment]
) -> list[str]:
    """Pigments that look like one that is owned."""
    lines = []
    for pigment in inside:
        if pigment.code in owned or pigment.code in chosen:
            continue
        for code in owned:
            if (
                code in table
                and float(delta_e_00(np.array(pigment.tint), np.array(table[code].tint))) < _LOOKS_ALIKE / 3
            ):
                lines.append(tr("{code}: looks like your {code2}", code=pigment.code, code2=code))
                break
    return lines
