"""Washes of known grain, parting and blooms in foreign pictures from three distances: what is measured of them."""

import itertools
from collections.abc import Mapping, Sequence

import numpy as np
from scipy import stats

from culmo.core.capture.read import read_sheet
from culmo.core.paint.character import triple
from culmo.core.paint.estimate import learn
from culmo.core.paint.grain import SeenTexture, foretell, known_textures, learn_grains
from culmo.core.paint.next_cells import AS_PAINTED_OF_TEXTURE, chosen_of, worth_by
from culmo.core.paint.readings import Reading
from culmo.core.paint.recipe import Layer, Part, Recipe
from support.foreign_sheets import photo_of
from support.settling import Laboratory
from support.textures import settled, settled_sheet, textured
from tools.benches import show

_FIRST, _SHEETS = 500, 4  # seeds that were not looked at while the measures were made
_LABORATORIES = 16
_DISTANCES = (1400, 2000, 2800)
_GRAINY = 1.0  # of L*, from which on grain is told of
_PAPER = (96.0, 0.0, 2.0)


def run() -> bool:
    """Four sheets of 36 washes by chance, each photographed from three distances by another scene."""
    rows: dict[int, list[tuple[float, ...]]] = {px: [] for px in _DISTANCES}
    sizes = []
    for seed in range(_FIRST, _FIRST + _SHEETS):
        sheet = textured(seed)
        for px in _DISTANCES:
            reading = read_sheet(photo_of(sheet.shoot(seed, px)), sheet.sheet, paper=np.array(_PAPER))
            sizes += [len(patch.data) for patch in reading.patches.values()]
            for name, true in sorted(sheet.truth.items()):
                patch = reading.patches.get(name)
                got = patch.texture if patch is not None else None
                seen = (np.nan,) * 5
                if got is not None:
                    seen = got.contrast, got.parting, got.size_mm, got.soft, got.contrast_off
                rows[px].append((true.contrast, true.parting, true.size_mm, true.blooms, *seen))
    fine = True
    for px, own in rows.items():
        table = np.array(own)
        table = table[np.isfinite(table).all(axis=1)]
        contrast, parting, size, blooms, seen, apart, wide, soft, off = table.T
        grainy = contrast > _GRAINY
        print(
            f"from {px} pixels: contrast {np.median(seen[grainy] / contrast[grainy]):.2f} of the true one, "
            f"told holds {np.mean(np.abs(seen - contrast) <= 1.645 * off):.0%}, "
            f"blooms rank {stats.spearmanr(blooms, soft)[0]:.2f}",
            flush=True,
        )
        fine &= show("1 - rank correlation of contrast", 1.0 - stats.spearmanr(contrast, seen)[0], 0.1)
        fine &= show("1 - rank correlation of parting", 1.0 - stats.spearmanr(parting, apart)[0], 0.15)
        wrong = np.abs(wide[grainy] / size[grainy] - 1.0)
        fine &= show("grain size, off in the middle", float(np.median(wrong)), 0.25)
    for one, other in ((1400, 2000), (2000, 2800), (1400, 2800)):
        first, second = np.array(rows[one]), np.array(rows[other])
        grainy = (first[:, 0] > _GRAINY) & np.isfinite(first[:, 4]) & np.isfinite(second[:, 4])
        for name, column in (("contrast", 4), ("size", 6)):
            apart = np.abs(first[grainy, column] / second[grainy, column] - 1.0)
            fine &= show(f"{name} in two pictures, {one} and {other}, apart", float(np.median(apart)), 0.1)
    print(f"{np.mean(sizes) / 1024:.1f} KiB a patch")
    return fine & _foretold() & _chosen()


def _foretold() -> bool:
    """One 8 x 8 sheet of paints that settle as is known, read from one picture: what is foretold of mixes not on it."""
    found, label, true, held = [], [], [], []
    for seed in range(_FIRST, _FIRST + _SHEETS):
        rng = np.random.default_rng(seed)
        sheet, pigments = settled_sheet(seed)
        reading = read_sheet(photo_of(sheet.shoot(seed, 3264)), sheet.sheet, paper=np.array(_PAPER))
        names = [one.name for one in pigments]
        own = [Reading(e.recipe, triple(e.lab), e.ground) for e in reading.readings]
        estimate = learn(names, own)
        seen = [
            SeenTexture(e.recipe, texture)
            for e in reading.readings
            if (texture := reading.patches[e.cell].texture) is not None
        ]
        said = {
            one.name.casefold(): float(np.clip(one.uneven / 0.4 + rng.normal(0, 0.3), 0, 1))
            for one in pigments
        }
        unseen = [
            Recipe((Layer((Part(a, 1.0), Part(b, 3.0)), wash),))
            for a, b in itertools.permutations(names, 2)
            for wash in (1.0, 0.5)
        ]
        unseen = [unseen[i] for i in rng.choice(len(unseen), 30, replace=False)]
        told = [settled(rng, pigments, recipe, 8.0) for recipe in unseen]
        learned = foretell(estimate, learn_grains(estimate, seen, said.__getitem__), unseen)
        alone = foretell(estimate, learn_grains(estimate, [], said.__getitem__), unseen)
        true.append([[one[1] for one in told], [one[2] for one in told]])
        found.append([learned.contrast, learned.parting])
        label.append([alone.contrast, alone.parting])
        held += (np.abs(learned.contrast - true[-1][0]) <= 1.645 * learned.contrast_off).tolist()
    fine = True
    for place, (name, limit) in enumerate((("contrast", 0.2), ("parting", 0.3))):
        by_sheet = [np.corrcoef(a[place], b[place])[0, 1] for a, b in zip(true, found, strict=True)]
        by_label = [np.corrcoef(a[place], b[place])[0, 1] for a, b in zip(true, label, strict=True)]
        print(
            f"{name} of unseen mixes: correlation {np.mean(by_sheet):.2f}, by the label alone {np.mean(by_label):.2f}"
        )
        fine &= show(
            f"1 - correlation of {name} foretold, the worst of the sheets", 1.0 - min(by_sheet), limit
        )
    print(f"told holds {np.mean(held):.0%}")
    return fine


def _chosen() -> bool:
    """Eight washes of a sheet that would tell most, against any, by labels that say anything: how far off others are."""
    off: dict[str, list[float]] = {"nothing": [], "chosen": [], "any 8": [], "any 12": [], "any 16": []}
    promised = []
    for seed in range(_FIRST, _FIRST + _LABORATORIES):
        one, rng = Laboratory(seed), np.random.default_rng([seed, 77])
        claims = {paint.name.casefold(): rng.uniform() for paint in one.pigments}
        sheet = [seen.recipe for seen in one.seen]
        known = known_textures(one.estimate, learn_grains(one.estimate, [], claims.__getitem__), sheet)
        chosen = chosen_of(known, 8)
        promised.append(worth_by(known, chosen, AS_PAINTED_OF_TEXTURE).at_random)
        off["nothing"].append(_off_by(one, claims, []))
        off["chosen"].append(_off_by(one, claims, chosen))
        for count in (8, 12, 16):
            others = [rng.permutation(len(sheet))[:count].tolist() for _ in range(6)]
            off[f"any {count}"].append(float(np.mean([_off_by(one, claims, places) for places in others])))
    middle = {name: float(np.mean(values)) for name, values in off.items()}
    print(
        "contrast and separation off by: "
        + ", ".join(f"{name} {value:.2f}" for name, value in middle.items())
    )
    alike = np.interp(
        -middle["chosen"], [-middle[f"any {count}"] for count in (8, 12, 16)], [8.0, 12.0, 16.0]
    )
    print(f"eight chosen are worth {alike:.0f} of any; {np.mean(promised):.0f} are promised")
    fine = show(
        "eight washes that were chosen, beside eight of any", middle["chosen"] / middle["any 8"], 0.85
    )
    return show("promised beside found", float(np.mean(promised)) / float(alike), 1.25) and fine


def _off_by(one: Laboratory, claims: Mapping[str, float], places: Sequence[int]) -> float:
    learned = learn_grains(one.estimate, [one.seen[place] for place in places], claims.__getitem__)
    found = foretell(one.estimate, learned, one.unseen)
    return float(np.hypot(found.contrast - one.contrast, found.parting - one.parting).mean())
