"""The commands without a window, as a shell sees them."""

import json
import subprocess
import sys

import pytest

from tonleiter.cli import main


def run(capsys, *arguments):
    try:
        code = main([str(a) for a in arguments])
    except SystemExit as stop:
        code = stop.code
    out = capsys.readouterr()
    return code, out.out, out.err


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
        "voice", "stage-dynamic", "cable-5m", "desk-mixer", "pad", "radio-lead", "hf-set",
    ]  # fmt: skip


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
    file.write_text(CIRCUIT + ".tran 1u 1m\n")
    code, out, err = run(capsys, "circuit", file)
    assert code == 0
    assert "5 V" in out
    assert "noise, total" in out
    assert ".tran is not computed here" in err


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


def test_without_a_window_qt_is_never_loaded(demo_folder):
    code = (
        "import sys; from tonleiter.cli import main;"
        f"main(['levels', {str(demo_folder)!r}, '--json']);"
        "sys.exit(any(m.startswith('PySide6') for m in sys.modules))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, check=False)
    assert done.returncode == 0


# --- match and plan -------------------------------------------------------------------------------


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
    assert [t["what"] for t in pair["takes"]][:2] == ["block", "gain"]
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
