"""The commands without a window, as a shell sees them."""

import json
import subprocess
import sys

import numpy as np
import pytest
import soundfile

from tests.conftest import gear, station_of
from tests.core.listen.signals import RATE, lines, noise, spoken
from tonleiter.cli import main
from tonleiter.cli.main import FILES, _parser, manual_page, spelled_out
from tonleiter.cli.man import commands_of
from tonleiter.core.station.files import save_station


def run(capsys, *arguments):
    try:
        code = main([str(a) for a in arguments])
    except SystemExit as stop:
        code = stop.code
    out = capsys.readouterr()
    return code, out.out, out.err


@pytest.mark.long
def test_levels_table(capsys, demo_folder):
    code, out, _ = run(capsys, "levels", demo_folder)
    assert code == 0
    assert "isolating transformer" in out
    assert "STOP" in out
    assert "→ Add 6.8 µF" in out


def test_levels_json(capsys, demo_folder):
    code, out, _ = run(capsys, "levels", demo_folder, "--json", "--variant", "as-wired")
    report = json.loads(out)
    assert code == 0
    assert report["variant"] == "as-wired"
    assert [s["id"] for s in report["stages"]] == [
        "voice",
        "stage-dynamic",
        "cable-5m",
        "desk-mixer",
        "pad",
        "radio-lead",
        "hf-set",
    ]


@pytest.mark.parametrize(("variant", "code"), [("with-transformer", 1), ("as-wired", 0)])
def test_strict_is_1_when_a_stop_stands(capsys, demo_folder, variant, code):
    assert run(capsys, "levels", demo_folder, "--strict", "--variant", variant)[0] == code


CIRCUIT = """divider
V1 a 0 10 AC 1
R1 a b 1k
R2 b 0 1k
.op
.ac dec 1 10 100
.noise v(b) V1 dec 1 10 100
"""


def test_circuit_json(capsys, tmp_path):
    file = tmp_path / "d.cir"
    file.write_text(CIRCUIT)
    code, out, _ = run(capsys, "circuit", file, "--json")
    results = json.loads(out)
    assert code == 0
    assert results["op"]["b"] == pytest.approx(5)
    assert results["ac"]["nodes"]["b"]["re"] == pytest.approx([0.5, 0.5])
    assert set(results["noise"]) >= {"f_hz", "density_v_per_rthz", "total_v", "contributors"}


def test_circuit_table(capsys, tmp_path):
    file = tmp_path / "d.cir"
    file.write_text(CIRCUIT + ".four 1k v(b)\n.tran 1u 1m\n")
    code, out, err = run(capsys, "circuit", file)
    assert code == 0
    assert "5 V" in out
    assert "noise, total" in out
    assert "t/s" in out
    assert ".four is not computed here" in err
    _, out, _ = run(capsys, "circuit", file, "--json")
    tran = json.loads(out)["tran"]
    assert tran["nodes"]["b"] == pytest.approx([5] * len(tran["t_s"]))
    assert tran["t_s"][-1] == pytest.approx(1e-3)


def refused(capsys, *arguments):
    code, out, err = run(capsys, *arguments)
    assert code == 2
    assert out == ""
    assert err.count("\n") == 1
    return err


@pytest.mark.parametrize(
    ("line7", "words"),
    [("Rx b 0 4kk7", "line 7: “4kk7” is not a number"), ("Rx b", "line 7"), ("Wx", "line 7")],
)
def test_a_typo_on_line_7(capsys, tmp_path, line7, words):
    file = tmp_path / "typo.cir"
    file.write_text("t\nV1 a 0 1\nR1 a b 1\nR2 b 0 1\n* c\n* d\n" + line7 + "\n.op\n")
    assert words in refused(capsys, "circuit", file)


def test_a_floating_node_is_named(capsys, tmp_path):
    file = tmp_path / "f.cir"
    file.write_text("t\nV1 a 0 1\nC1 a far 1u\nR1 a 0 1k\n.op\n")
    assert "node far floats" in refused(capsys, "circuit", file)


def test_missing_files(capsys, tmp_path):
    assert "cannot be read" in refused(capsys, "circuit", tmp_path / "none.cir")
    assert "no station here" in refused(capsys, "levels", tmp_path / "none")


def test_unknown_chain_and_variant(capsys, demo_folder):
    assert "known: hf-chat, fm-headset" in refused(capsys, "levels", demo_folder, "--chain", "x")
    assert "known: as-wired" in refused(capsys, "levels", demo_folder, "--variant", "x")


def test_wrong_usage(capsys):
    assert "--help" in refused(capsys, "levels")
    assert "--fresh goes with --demo" in refused(capsys, "--fresh")


def test_a_station_without_chains(capsys, demo_data, demo_folder):
    demo_data |= {"chains": [], "open_chain": None}
    (demo_folder / "station.json").write_text(json.dumps(demo_data))
    assert "no chain yet" in refused(capsys, "levels", demo_folder)


@pytest.mark.long
def test_without_a_window_qt_is_never_loaded(demo_folder):
    code = (
        "import sys; from tonleiter.cli import main;"
        f"main(['levels', {str(demo_folder)!r}, '--json']);"
        "sys.exit(any(m.startswith('PySide6') for m in sys.modules))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, check=False)
    assert done.returncode == 0


# --- match and plan -------------------------------------------------------------------------------


@pytest.mark.long
def test_match_prints_answers_and_json(capsys, demo_folder):
    assert (
        main(["match", str(demo_folder), "--purpose", "fm-voice", "--operator", "high-voice"]) == 0
    )
    said = capsys.readouterr().out
    assert "For voice on FM the electret headset suits the FM mobile best" in said
    assert main(["match", str(demo_folder), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    sources = {p["source"] for p in report["pairs"]}
    inputs = {p["input"] for p in report["pairs"]}
    assert len(report["pairs"]) == len(sources) * len(inputs) >= 24
    pair = next(
        p for p in report["pairs"] if (p["source"], p["input"]) == ("stage-dynamic", "hf-set")
    )
    assert [t["what"] for t in pair["takes"]] == ["block"]
    assert 0.5 < pair["gain_control"] < 0.95
    assert pair["off_middle_db"] < -3


def test_plan_prints_plans_and_json(capsys, demo_folder):
    path = ["plan", str(demo_folder), "--from", "usb-box-out", "--to", "hf-data"]
    assert main([*path, "--purpose", "data-weak"]) == 0
    assert "candidates solved, simple and cheap:" in capsys.readouterr().out
    assert main([*path, "--purpose", "data-weak", "--style", "isolated", "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["style"] == "isolated"
    assert all(plan["isolated"] for plan in report["plans"])
    assert report["plans"]


def test_match_and_plan_refuse_what_does_not_exist(capsys, demo_folder):
    assert "known: ssb-chat" in refused(capsys, "match", demo_folder, "--purpose", "opera")
    assert "known: deep-voice" in refused(capsys, "match", demo_folder, "--operator", "bass")
    ends = ("--from", "stage-dynamic", "--to", "hf-set")
    assert "no style called" in refused(capsys, "plan", demo_folder, *ends, "--style", "baroque")
    swapped = ("--from", "hf-set", "--to", "stage-dynamic")
    assert "no source called “hf-set”" in refused(capsys, "plan", demo_folder, *swapped)
    assert "--to" in refused(capsys, "plan", demo_folder, "--from", "stage-dynamic")


# --- outputs that close, fill up, or know fewer letters -------------------------------------------


def shell(command, **options):
    return subprocess.run(
        ["/bin/sh", "-c", command],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
        **options,
    )


TONLEITER = f"{sys.executable} -m tonleiter.cli"


@pytest.fixture(scope="module")
def small(tmp_path_factory):
    """A microphone on a radio: the output is what is looked at here, not what is said."""
    folder = tmp_path_factory.mktemp("small") / "small.station"
    mic, radio = gear("dynamic-microphone", "mic"), gear("microphone-socket", "radio")
    save_station(station_of(mic, radio), folder)
    return folder


@pytest.mark.long
def test_a_full_output_is_one_line_and_exit_2(small):
    done = shell(f"{TONLEITER} levels {small} > /dev/full")
    assert done.returncode == 2
    assert done.stderr.strip() == "tonleiter: the output cannot be written: the disk is full"


@pytest.mark.long
def test_a_reader_that_has_had_enough_is_no_trouble(small):
    done = shell(f"{TONLEITER} levels {small} --json | head -n 1; echo ok")
    assert done.stderr == ""
    assert done.stdout.endswith("ok\n")


@pytest.mark.long
def test_a_closed_output_is_no_traceback(small):
    done = shell(f"{TONLEITER} levels {small} >&-")
    assert "Traceback" not in done.stderr
    assert done.stderr.count("\n") <= 1


@pytest.mark.long
def test_an_output_that_knows_no_ohm_spells_it(small):
    done = shell(f"PYTHONIOENCODING=ascii {TONLEITER} levels {small}")
    assert done.returncode == 0
    assert "\\u03a9" in done.stdout


@pytest.mark.long
def test_a_circuit_from_a_pipe_and_from_a_silent_one(tmp_path):
    (tmp_path / "d.cir").write_text(CIRCUIT)
    done = subprocess.run(
        ["/bin/bash", "-c", f"{TONLEITER} circuit <(cat {tmp_path / 'd.cir'}) --json"],
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert json.loads(done.stdout)["op"]["b"] == pytest.approx(5)
    done = shell(f"mkfifo {tmp_path / 'p'}; {TONLEITER} levels {tmp_path / 'p'}")
    assert done.returncode == 2
    assert "nothing came through" in done.stderr


@pytest.mark.parametrize(
    ("cards", "words"),
    [
        ("V1 a 0 1\nR1 a 0 1k\n.ac lin 200000 1 9\n", "more than 100000 points"),
        (".param a={" + "(" * 9000 + "1" + ")" * 9000 + "}\nR1 a 0 {a}\n", "longer than"),
        ("R1 a 0 " + "9" * 5000 + "\n", "not a number"),
        ("R1 a 0 1e999\n", "finite"),
    ],
)
def test_what_is_far_too_large_is_refused_with_its_bound(capsys, tmp_path, cards, words):
    file = tmp_path / "big.cir"
    file.write_text("title\n" + cards)
    code, _, err = run(capsys, "circuit", file)
    assert code == 2
    assert words in err
    assert err.count("\n") == 1
    assert len(err) < 400


def test_subcircuits_that_multiply_are_refused(capsys, tmp_path):
    deck = "t\n.subckt s0 a b\nR1 a b 1k\n.ends\n"
    for k in range(1, 10):
        calls = "".join(f"X{j} a b s{k - 1}\n" for j in range(10))
        deck += f".subckt s{k} a b\n{calls}.ends\n"
    (tmp_path / "n.cir").write_text(deck + "V1 a 0 1\nX1 a 0 s9\n.op\n")
    code, _, err = run(capsys, "circuit", tmp_path / "n.cir")
    assert code == 2
    assert "more than 20000 elements" in err


def test_points_times_nodes_is_bounded(capsys, tmp_path):
    ladder = "".join(f"R{k} n{k} n{k + 1} 1k\nC{k} n{k + 1} 0 1n\n" for k in range(100))
    (tmp_path / "l.cir").write_text(f"t\nV1 n0 0 AC 1\n{ladder}.ac lin 50000 1 9\n")
    code, _, err = run(capsys, "circuit", tmp_path / "l.cir")
    assert code == 2
    assert "at most 2000000 values" in err


def test_a_transient_is_worked_at_for_so_many_seconds(capsys, tmp_path):
    file = tmp_path / "long.cir"
    file.write_text(
        "long\nV1 a 0 SIN(0 1 1meg)\nR1 a b 1k\nC1 b 0 1n\nD1 b 0 d\n.model d d (is=1e-14)\n"
        ".tran 20n 1.9m 0 5n\n"
    )
    code, out, err = run(capsys, "circuit", file, "--seconds", "0,3", "--json")
    assert code == 0
    assert "what was computed is given" in err
    assert json.loads(out)["tran"]["cut_short"]
    for wrong in ("0", "-3", "nan", "soon", "1e9"):
        code, _, err = run(capsys, "circuit", file, "--seconds", wrong)
        assert code == 2
        assert "seconds above 0" in err


# --- loops and recordings ------------------------------------------------------------------------


def test_loop_says_what_happens_and_is_strict_about_it(capsys, demo_folder):
    code, out, _ = run(capsys, "loop", demo_folder, "--chain", "hf-weak-data")
    assert code == 0
    assert "beeps go on the air" in out
    assert "→ 2. Defaults back to the desk" in out
    assert run(capsys, "loop", demo_folder, "--chain", "hf-weak-data", "--strict")[0] == 1
    code, out, _ = run(capsys, "loop", demo_folder, "--chain", "hf-weak-data", "--json")
    report = json.loads(out)
    assert report["keying"]["way"] == "interface-vox"
    assert report["out"]["out_dbfs"] == -24
    assert report["in"]["chain"] == "hf-receive"
    assert any(f["code"] == "desk-beeps-on-air" and f["remedies"] for f in report["findings"])


@pytest.mark.parametrize(
    ("chain", "says"),
    [("hf-chat", "packet or weak-signal data"), ("hf-receive", "sends nothing"), ("x", "no chain")],
)
def test_loop_refuses_what_has_no_computer_in_one_line(capsys, demo_folder, chain, says):
    code, out, err = run(capsys, "loop", demo_folder, "--chain", chain)
    assert (code, out) == (2, "")
    assert says in err
    assert err.count("\n") == 1


@pytest.fixture
def recordings(tmp_path):
    one, other = tmp_path / "a.wav", tmp_path / "b.flac"
    x = spoken()[: 6 * RATE] + noise(6 * RATE, 50)
    soundfile.write(one, x + lines(x.size, 50, ((1, 1.0), (2, 1.0)), 32), RATE)
    soundfile.write(other, np.stack([0.1 * x, x], axis=1), RATE)
    return one, other


def test_measure_prints_words_json_and_csv(capsys, recordings):
    code, out, _ = run(capsys, "measure", *recordings)
    assert code == 0
    assert "hum" in out
    assert "of 2 channels the 2. is the loudest" in out
    code, out, _ = run(capsys, "measure", recordings[0], "--json")
    (report,) = json.loads(out)
    assert report["hum"]["mains_hz"] == 50
    assert report["figures"]["level_dbfs"]["value"] == pytest.approx(-23.0, abs=0.5)
    assert "hum" in [w["word"] for w in report["words"]]
    code, out, _ = run(capsys, "measure", *recordings, "--csv")
    rows = out.splitlines()
    assert len(rows) == 3
    assert rows[0].startswith("file,seconds,rate_hz,level_dbfs")


def test_compare_says_what_changed(capsys, recordings):
    code, out, _ = run(capsys, "compare", *recordings)
    assert code == 0
    assert "no longer hum" in out
    assert "the same words" in out
    report = json.loads(run(capsys, "compare", *recordings, "--json")[1])
    assert report["same_words"]
    assert report["words_gone"] == ["hum"]


@pytest.mark.parametrize("content", [b"", b"RIFF", b"this is no sound", b"fLaC" + b"\0" * 50])
def test_a_file_that_is_no_sound_is_one_line_and_2(capsys, tmp_path, content):
    file = tmp_path / "x.wav"
    file.write_bytes(content)
    code, out, err = run(capsys, "measure", file)
    assert (code, out) == (2, "")
    assert "WAV, FLAC or OGG is wanted" in err
    assert err.count("\n") == 1
    assert run(capsys, "compare", file, tmp_path / "none.wav")[0] == 2


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        (["a.station"], ["open", "a.station"]),
        (["--look", "./x"], ["open", "--look", "./x"]),
        (["x.zip"], ["open", "x.zip"]),
        (["levels", "a.station"], ["levels", "a.station"]),
        (["--demo"], ["--demo"]),
        ([], []),
        (["nonsense"], ["nonsense"]),
    ],
)
def test_a_place_by_itself_is_opened(typed, meant, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert spelled_out(typed) == meant


def test_a_folder_called_like_a_command_is_opened_by_its_path(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "levels").mkdir()
    assert spelled_out(["levels", "x.station"]) == ["levels", "x.station"]
    assert spelled_out(["./levels"]) == ["open", "./levels"]


def test_a_place_without_a_station_is_refused_in_one_line(tmp_path, capsys):
    assert main([str(tmp_path / "none.station")]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert "there is no station here" in said


def test_the_manual_page_knows_every_command():
    page = manual_page()
    for name in ("open", "levels", "match", "wiring", "prove", "log", "circuit", "deviation"):
        assert f".B {name}\n" in page
    assert page.startswith(".TH TONLEITER 1")
    assert all(not line.startswith("'") for line in page.splitlines())


def test_names_of_commands_are_those_of_the_parser():
    assert [name for name, _ in commands_of(_parser())] == list(FILES)


def test_a_window_is_opened_without_reading_the_commands():
    """What computes is read when a command asks for it; the window stands sooner."""
    asks = (
        "import sys; from tonleiter.cli.main import _parser, _wanted, spelled_out;"
        "given = spelled_out(['a.station']); _parser(_wanted(given)).parse_args(given);"
        "print(*[m for m in ('numpy', 'scipy', 'pydantic', 'PySide6') if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", asks], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == ""
