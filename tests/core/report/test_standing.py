"""A station in one line, before it is opened."""

import pytest

from tests.core.wiring.benches import lead, mic, radio, station
from tonleiter.core.circuit.elements import CircuitError
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.report.standing import standing
from tonleiter.core.station.begin import begun
from tonleiter.core.station.edits import change_chain
from tonleiter.core.station.model import Station


def fine():
    return station(mic(), lead(), radio())


def stops():
    """Eight volts on a coil."""
    return station(mic(), lead(), radio(bias_v=8, bias_ohm=2200, z_in_ohm=1500))


def with_copies(made: Station, *names: str) -> Station:
    """The same chain once more for each name."""
    chain = made.chains[0]
    copies = tuple(chain.but(id=f"c{k}", name=name) for k, name in enumerate(names))
    return made.but(chains=(*made.chains, *copies))


def test_a_new_one_has_nothing_yet():
    assert standing(begun()).grave == "open"
    assert "Nothing is on the shelf" in standing(begun()).says


def test_pieces_without_a_chain():
    bare = fine().but(chains=(), open_chain=None)
    assert standing(bare).says.startswith("3 pieces on the shelf, no chain yet")


def test_one_that_goes_says_how_the_open_chain_stands():
    said = standing(fine())
    assert said.grave in ("fine", "mind")
    assert said.says


@pytest.mark.parametrize(
    ("names", "also"),
    [((), ""), (("two",), " So does one more."), (("two", "three"), " So do 2 more.")],
)
def test_what_is_to_be_mended_first_is_counted(names, also):
    said = standing(with_copies(stops(), *names))
    assert said.grave == "stop"
    assert said.says.startswith("“chain” wants mending first: ")
    assert said.says.endswith("." + also)


def test_the_open_chain_s_stop_is_named_before_another_s():
    made = with_copies(stops(), "two").but(open_chain="c0")
    assert "“two” wants mending first" in standing(made).says


def test_a_chain_that_cannot_be_computed_is_named_and_hides_no_stop():
    two = with_copies(fine(), "two")

    def judge(made, chain):
        if chain == "c0":
            raise CircuitError("no operating point")
        return verdict_of(made, chain)

    assert standing(two, judge).says == "“two” cannot be computed as it stands."
    stopped = with_copies(stops(), "two")
    assert "“chain” wants mending first" in standing(stopped, judge).says


def test_what_is_minded_is_no_stop():
    far = change_chain(fine(), fine().chains[0].id, distance_mm=900)
    assert any(f.severity == "mind" for f in verdict_of(far).findings)
    assert standing(far).grave == "mind"
