"""What codes say, and the cautions."""

from culmo.core.paint.label import FIRST, cautions, label_of, sharing, spell_out
from culmo.core.palette.keep import Standing, which_to_keep
from culmo.data import pigment_table

TABLE = pigment_table()


def test_a_code_is_spelt_out():
    assert spell_out("PB29", TABLE) == "PB29: pigment, blue, number 29; ultramarine blue"
    assert "form 3" in spell_out("PB15:3", TABLE)
    assert spell_out("PBk999", TABLE) == "PBk999: pigment, black, number 999"
    assert spell_out("NR9", TABLE).startswith("NR9: natural dye, red, number 9")
    assert spell_out("???", TABLE) == "???"


def test_a_mixture_is_as_opaque_and_as_fugitive_as_its_worst_pigment():
    single, mixture = label_of("PB29", TABLE), label_of("PB29 + PW6", TABLE)
    assert (single.count_words, mixture.count_words) == ("single pigment", "a mixture of 2 pigments")
    assert single.transparency == "transparent"
    assert mixture.transparency == "opaque"
    poor = next(code for code, pigment in TABLE.items() if pigment.lightfastness == "poor")
    assert label_of(f"PB29 + {poor}", TABLE).lightfastness == "poor"
    assert "wall" in label_of(f"PB29 + {poor}", TABLE).lightfast_words


def test_what_the_painter_wrote_of_the_label_comes_before_the_table():
    assert label_of("PB29", TABLE, {"transparency": "opaque"}).transparency == "opaque"
    assert label_of("", TABLE).lightfast_words.startswith("lightfastness not known")


def test_cautions_name_the_element_and_never_call_a_paint_safe():
    for code, pigment in TABLE.items():
        lines = cautions(label_of(code, TABLE))
        assert lines[-1] == FIRST
        assert "safe" not in " ".join(lines).replace("safety data sheet", "")
        for element in pigment.caution.split():
            assert any(element in line for line in lines), code
        assert any("lips" in line for line in lines) == bool(pigment.caution)
    assert any("rinse water" in line for line in cautions(label_of("PR108", TABLE)))
    assert any("does not mean" in line for line in cautions(label_of("PB999", TABLE)))
    assert "read the label" in cautions(label_of("", TABLE))[0]


def test_which_paints_share_a_pigment():
    others = {"Sky": "PB29 + PW6", "Rose": "PV19"}
    assert sharing("PB29 + PG7", others) == {"PB29": ["Sky"]}


def standing(name, codes="PB29", status="owned", loss=0.0):
    return Standing(name, status, label_of(codes, TABLE), loss)


def test_which_of_two_alike_to_keep_and_why():
    poor = next(code for code, pigment in TABLE.items() if pigment.lightfastness == "poor")
    keep, why = which_to_keep(standing("A", "PB29"), standing("B", poor))
    assert keep == "A"
    assert "light" in why
    assert which_to_keep(standing("A", status="wished"), standing("B"))[0] == "B"
    assert which_to_keep(standing("A", "PB29 + PG7"), standing("B", "PB29"))[1].endswith("single pigment")
    assert which_to_keep(standing("A", loss=0.2), standing("B"))[0] == "A"
    name, why = which_to_keep(standing("A"), standing("B"))
    assert name == ""
    assert "nothing speaks" in why


def test_keeping_does_not_depend_on_the_order():
    entries = [
        standing("A", "PB29", "owned", 0.1),
        standing("B", "PV23", "sample", 0.3),
        standing("C", "PW6", "wished"),
    ]
    for one in entries:
        for other in entries:
            if one is not other:
                assert which_to_keep(one, other)[0] == which_to_keep(other, one)[0]
