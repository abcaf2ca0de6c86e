"""A damaged log written anew: what can be read is there, and the damaged file is kept."""

import random
import sqlite3

import pytest

from tests.core.log.test_store import report
from tonleiter.cli.main import main
from tonleiter.core.log.repair import repair
from tonleiter.core.log.store import LOG_FILE, VERSION, LogError, LogStore
from tonleiter.core.station.begin import begun
from tonleiter.core.station.files import save_station


def written(folder, count=200):
    store = LogStore(folder)
    store.add_all([(report(f"entry {k} " + "x" * 300), b"state") for k in range(count)])
    store.close()
    return folder / LOG_FILE


def test_what_is_whole_is_left_alone(tmp_path):
    with pytest.raises(LogError, match="there is no log"):
        repair(tmp_path)
    file = written(tmp_path)
    before = file.read_bytes()
    with pytest.raises(LogError, match="not damaged"):
        repair(tmp_path)
    base = sqlite3.connect(file)
    base.execute(f"PRAGMA user_version={VERSION + 1}")
    base.commit()
    base.close()
    with pytest.raises(LogError, match="newer version"):
        repair(tmp_path)
    assert file.read_bytes() != before, "only its version was changed, by this test"


@pytest.mark.parametrize("share", [0.3, 0.6, 0.9])
@pytest.mark.table(keep=3)
def test_a_hole_costs_the_entries_in_it_and_no_others(tmp_path, share):
    """Pages are of 4096 bytes: one in the middle holds some ten of these entries."""
    file = written(tmp_path)
    whole = file.read_bytes()
    page = int(share * len(whole) / 4096) * 4096
    broken = whole[:page] + bytes(4096) + whole[page + 4096 :]
    file.write_bytes(broken)
    assert LogStore(tmp_path).damaged
    made = repair(tmp_path)
    assert made.kept.read_bytes() == broken, "nothing is thrown away"
    again = LogStore(tmp_path)
    assert not again.trouble
    entries = again.entries()
    assert len(entries) == made.entries >= 150
    assert again.entries(find="entry")[0].text.startswith("entry")
    assert again.state(entries[0].number) is not None
    # it is written on with
    again.add(report("after"))
    assert len(again.entries()) == made.entries + 1


@pytest.mark.long
def test_random_damage_is_never_a_traceback_and_the_old_file_is_always_there(tmp_path):
    rng = random.Random(11)
    for run in range(25):
        folder = tmp_path / str(run)
        folder.mkdir()
        file = written(folder, 40)
        content = bytearray(file.read_bytes())
        for _ in range(rng.randrange(1, 30)):
            at = rng.randrange(len(content))
            content[at : at + rng.randrange(1, 400)] = rng.randbytes(rng.randrange(1, 400))
        if rng.random() < 0.3:
            del content[rng.randrange(len(content)) :]
        file.write_bytes(bytes(content))
        try:
            made = repair(folder)
        except LogError:
            assert file.read_bytes() == bytes(content), "refused, and left as it was"
            continue
        assert made.kept.read_bytes() == bytes(content)
        assert not LogStore(folder).damaged


def test_by_the_command(tmp_path, capsys):
    folder = tmp_path / "s.station"
    save_station(begun(), folder)
    file = written(folder, 30)
    file.write_bytes(b"this is no log at all" * 400)
    assert main(["log", str(folder), "--repair"]) == 0
    assert "0 entries are written anew" in capsys.readouterr().err
    assert main(["log", str(folder), "--repair"]) == 2
    assert "not damaged" in capsys.readouterr().err
