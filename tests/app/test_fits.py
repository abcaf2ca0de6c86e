"""No child is wider than its panel: names of forty letters, every space, every size of text."""

from datetime import datetime, timedelta

import pytest
import soundfile
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QLabel, QScrollArea, QWidget

from tests.app.lessons import few_draws
from tests.conftest import gear, station_of
from tests.core.listen.signals import RATE, noise, spoken
from tests.core.wiring.benches import lead, radio, station
from tonleiter.app.jobs import Wait
from tonleiter.app.recents import keep_recent
from tonleiter.app.spaces.gear.model import ADD, DRAWER, LEARN, PEOPLE, ROOM
from tonleiter.app.spaces.listen.slots import with_slate
from tonleiter.core.log.entry import LogEntry
from tonleiter.core.log.offered import packed
from tonleiter.core.station.files import save_station
from tonleiter.core.station.model import Station

FORTY = "cellar workshop’s second best microphone"
SPACES = ("gear", "match", "ladder", "wire", "prove", "set", "listen", "log", "practise")
# at the usual size of text there is more room than at the largest
SIZES = [(1280, 800, 1.5), (1024, 700, 1.5)]
STEPPED = [(1024, 1.5)]


def long_names():
    """Each piece and box with a name of forty letters, of which no word is short enough to hide."""
    made = station(
        gear("electret-2-wire", "mic"),
        lead(),
        gear("bias-feed", "feed", supply_v=9),
        lead("other"),
        radio(),
    ).model_dump(mode="json")
    for n, thing in enumerate((*made["gear"], *made["devices"], *made["chains"])):
        thing["name"] = f"{FORTY[: -len(str(n))]}{n}"
    return Station.model_validate(made)


def within(widget):
    """The scroll area that a widget stands in: a drawing in it may scroll by itself."""
    over = widget.parentWidget()
    while over is not None and not isinstance(over, QScrollArea):
        over = over.parentWidget()
    return over


def too_wide(window):
    """Widgets that stand over the right edge of a scroll area that does not scroll sideways."""
    for area in window.findChildren(QScrollArea):
        sideways = area.horizontalScrollBarPolicy() != Qt.ScrollBarPolicy.ScrollBarAlwaysOff
        if not area.isVisible() or area.widget() is None or sideways:
            continue
        inner, room = area.widget(), area.viewport().width()
        for child in inner.findChildren(QWidget):
            if child.isVisible() and child.width() > 0 and within(child) is area:
                right = child.mapTo(inner, QPoint(0, 0)).x() + child.width()
                if right > room + 1:
                    text = getattr(child, "text", str)()
                    yield (
                        f"{area.accessibleName() or type(area).__name__}: {type(child).__name__}"
                        f" “{text[:40]}” ends at {right} of {room}"
                    )


def cut_short(window):
    """Labels of one line that are narrower than what is written on them."""
    for one in window.findChildren(QLabel):
        wants = one.sizeHint().width()
        seen = one.isVisible() and not one.visibleRegion().isEmpty()
        if seen and one.text() and not one.wordWrap() and one.width() < wants - 1:
            yield f"“{one.text()[:40]}” has {one.width()} of {wants}"


def lit(space, _folder):
    """Each net of a build lit up, and each contact of its plugs opened, one after the other."""
    build = space.model.build
    for net in build.nets:
        wire = next((c.key for c in build.conductors if c.net == net.name and c.key), "")
        space.model.light(net.name, wire)
        QApplication.processEvents()
        yield net.name
    for end in dict.fromkeys(build.ends):
        label = end.connector.contacts[0].label
        space.model.light("", "", (end.id, label))
        QApplication.processEvents()
        yield f"{end.name} {label}"


def written(space, _folder):
    """The form, a report, its causes, a change and its offer, one after the other."""
    model = space.model
    if not model.entries:
        name = model.station.gear[0].name
        for kind, words in (("report", ("clear",)), ("change", ()), ("report", ("hum", "harsh"))):
            at = (datetime.now().astimezone() - timedelta(days=9 - len(model.entries))).isoformat()
            long = f"{FORTY} was opened and closed again and nothing was written of it"
            entry = LogEntry(at=at, kind=kind, words=words, microphone=name, title=long, text=long,
                             changed=(long, long), who="QK0ABCDEFGH/QRPP", tags=(FORTY[:29],),
                             way_back=f"{long}; {long}; {FORTY}")  # fmt: skip
            model.history.store.add(entry, packed(model.station))
            model.arrive()
            model.finish(Wait.LATER)
    steps = (
        ("next", model.leave_cause),
        ("form", model.write),
        ("note", model.write_note),
        ("report", lambda: model.choose(model.entries[-1].number)),
        ("causes", lambda: model.find_cause(model.entries[-1])),
        ("change", lambda: model.choose(model.entries[1].number)),
        ("held", lambda: model.hold_day(model.entries[1].number)),
        ("two days", lambda: model.choose(model.entries[0].number)),
    )
    for what, do in steps:
        do()
        model.finish()
        for _ in range(3):
            QApplication.processEvents()
        yield what
    model.choose(0)


def taught(space, _folder):
    """The page of what readings teach, with one that fits and one that does not."""
    page = space.learning.learning
    space.model.select(LEARN)
    if not page.records.readings:
        socket = page.stages()[-1][1]
        page.add("volts", socket, "0.4 V")
        page.add("speech", socket, "5 V")
    page.finish()
    for _ in range(3):
        QApplication.processEvents()
    yield "taught"
    space.model.select(space.model.station.gear[0].id)


def around(space, _folder):
    """Pages that few look at: nothing lies on anything, what has no room scrolls."""
    for chosen in (PEOPLE, ROOM, DRAWER, ADD):
        space.model.select(chosen)
        for _ in range(3):
            QApplication.processEvents()
        page = space.page(chosen)
        small = page.minimumSizeHint()
        assert page.width() >= small.width() and page.height() >= small.height(), chosen
        yield chosen
    space.model.select(space.model.station.gear[0].id)


def filled(space, folder):
    """Six recordings of long names, then each as it plays, with a slate."""
    model = space.model
    if not model.slots.filled():
        x = spoken()[: 4 * RATE]
        files = [folder / f"{FORTY.replace('’', '')}{k}.wav" for k in range(6)]
        for k, file in enumerate(files):
            soundfile.write(file, x + noise(x.size, 20 + 5 * k), RATE)
        model.drop(files)
        model.finish()
        first = model.slots.at("A")
        model.slots.put("A", lambda _: with_slate(first, 1.0))
    for what in ("six", "compared"):
        model.finish()
        for _ in range(3):
            QApplication.processEvents()
        yield what


def at_gear(space, folder):
    """What readings teach, and the pages around the gear."""
    yield from taught(space, folder)
    yield from around(space, folder)


DONE = {"wire": lit, "gear": at_gear, "listen": filled, "log": written}


@pytest.mark.long
def test_nothing_is_wider_than_its_panel(open_window, tmp_path, look, monkeypatch):
    """One window, two sizes; what is done in a space at the tightest."""
    few_draws(monkeypatch)
    folder = tmp_path / "long.station"
    save_station(long_names(), folder)
    window = open_window(folder)
    found = []
    for wide, high, scale in SIZES:
        look.set_scale(scale)
        window.resize(wide, high)
        for name in SPACES:
            window.go_to(name)
            space = window.space(name)
            space.model.finish()
            for _ in range(3):
                QApplication.processEvents()
            at = f"{name}, {wide}x{high}, text {scale}"
            found += [f"{at}: {what}" for what in (*too_wide(window), *cut_short(window))]
            if (wide, scale) in STEPPED and (done := DONE.get(name)) is not None:
                for what in done(space, tmp_path):
                    found += [f"{at}, {what}: {line}" for line in too_wide(window)]
    keep_recent(folder, "x")
    for wide, high, scale in SIZES:
        look.set_scale(scale)
        window.resize(wide, high)
        window.show_start()
        window.lobby.page.model.finish()
        for _ in range(3):
            QApplication.processEvents()
        assert window.lobby.page.rows
        found += [f"start, {wide}x{high}, text {scale}: {what}" for what in too_wide(window)]
    look.set_scale(1.0)
    assert found == []


@pytest.mark.long
def test_what_the_inspector_says_of_any_stage_fits_it(open_window, tmp_path, look):
    """A crystal's band from kilohertz to beyond, pieces with long words for what they do."""
    made = station_of(
        gear("piezo-microphone", "crystal"), lead(),
        gear("common-mode-choke", "choke"), gear("input-divider", "divider"),
        gear("mixer-strip", "mixer", expects="microphone", gain_db=30, gain_low_db=0,
             gain_high_db=60, phantom="on", input="balanced"),
        gear("line-input", "computer"),
    )  # fmt: skip
    folder = tmp_path / "wide.station"
    save_station(made, folder)
    window = open_window(folder)
    model, found = window.space("ladder").model, []
    model.finish()
    for wide, high, scale in ((1280, 800, 1.0), *SIZES):
        look.set_scale(scale)
        window.resize(wide, high)
        for k in range(-1, len(model.assessment.rows)):
            model.select(k)
            for _ in range(3):
                QApplication.processEvents()
            found += [f"stage {k}, {wide}x{high}, text {scale}: {w}" for w in too_wide(window)]
    look.set_scale(1.0)
    assert found == []
