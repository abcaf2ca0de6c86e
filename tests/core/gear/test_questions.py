"""Questions lead to gear that can be solved."""

import pytest

from tests.conftest import station_of
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.gear.questions import FIRST, Begin, BoxBegin
from tonleiter.core.judge.assess import assess


def leaves(question, path=()):
    for words, further in question.answers:
        if isinstance(further, Begin):
            yield (*path, words), further
        elif isinstance(further, BoxBegin):
            for socket in further.sockets:
                yield (*path, words, socket.words), socket.begin
        else:
            yield from leaves(further, (*path, words))


LEAVES = list(leaves(FIRST))
MIC = {"id": "m", "name": "m", "kind": "dynamic-microphone"}
RADIO = {"id": "r", "name": "r", "kind": "microphone-socket", "z_in_ohm": 50e3}


@pytest.mark.parametrize("path, begin", LEAVES, ids=[" / ".join(p) for p, _ in LEAVES])
def test_every_answer_ends_in_a_piece_that_works(path, begin):
    piece = {"id": "new", "name": begin.name, "kind": begin.kind, **begin.figures}
    role = KINDS[begin.kind].role
    chain = {"microphone": (piece, RADIO), "between": (MIC, piece, RADIO), "input": (MIC, piece)}
    assert assess(station_of(*chain[role])).rows


def test_almost_every_kind_can_be_reached():
    reached = {begin.kind for _, begin in LEAVES}
    # an own circuit begins with its cards, from the library
    assert set(KINDS) - reached == {"own-circuit"}


def test_questions_end_with_a_question_mark_and_offer_a_choice():
    def walk(question):
        assert question.text.endswith("?")
        assert len(question.answers) >= 2
        for _, further in question.answers:
            if not isinstance(further, Begin | BoxBegin):
                walk(further)

    walk(FIRST)
