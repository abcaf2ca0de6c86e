"""What the command `loop` says: levels both ways, keying, defaults, findings; as plain data."""

from __future__ import annotations

from typing import Any

from tonleiter.core.desk.devices import OUT_OF
from tonleiter.core.judge.findings.model import Finding
from tonleiter.core.report.finite import finite
from tonleiter.core.setup.loop.scene import LoopScene


def loop_report(scene: LoopScene) -> dict[str, Any]:
    """Keys carry units; None where there is nothing to say."""
    says, proves = scene.headline
    desk = scene.desk
    return {
        "chain": scene.case.basis.chain,
        "says": says,
        "proves": proves,
        "computer": desk.computer.name,
        "radio": desk.radio,
        "devices": [
            {
                "id": d.id,
                "called": d.called,
                "loudspeaker": d.out,
                "microphone": d.into,
                "plugged_in": d.plugged,
                "radio": d.id in desk.of_radio,
                "holds": [r for r in OUT_OF if (h := desk.holder(r)) is not None and h.id == d.id],
            }
            for d in desk.devices
        ],
        "program": {
            "out": device.id if (device := desk.program("out")) is not None else None,
            "in": device.id if (device := desk.program("in")) is not None else None,
        },
        "altering": list(desk.state.altering),
        "out": _out(scene),
        "keying": _keying(scene),
        "in": _in(scene),
        "steps": [
            {
                "title": s.title,
                "state": s.state,
                "shown": s.shown,
                "move": None if s.move is None else s.move.says,
            }
            for s in scene.steps
        ],
        "findings": [_finding(f) for f in scene.findings],
    }


def _out(scene: LoopScene) -> dict[str, Any]:
    sent = scene.sent
    return {
        "program_dbfs": sent.program_dbfs,
        "out_dbfs": sent.out_dbfs,
        "peak_dbfs": sent.peak_dbfs,
        "converter_v": sent.out_v,
        "socket_dbu": finite(sent.socket_dbu),
        "noise_dbfs": sent.noise_dbfs,
    }


def _keying(scene: LoopScene) -> dict[str, Any]:
    sent, keyed = scene.sent, scene.keyed
    return {
        "way": sent.way,
        "threshold_dbfs": sent.switch.threshold_db if sent.listens else None,
        "spare_db": keyed.spare_db,
        "opens_after_s": keyed.opens_after_s,
        "hang_s": sent.switch.hang_s if sent.listens else None,
        "tail_s": keyed.tail_s,
        "answers_after_s": sent.answers_after_s,
        "reply_lost_s": scene.lost_s,
    }


def _in(scene: LoopScene) -> dict[str, Any] | None:
    back = scene.back
    if back is None:
        return None
    row = back.verdict.assessment.rows[-1]
    return {
        "chain": back.chain,
        "strongest_dbu": finite(row.speech_dbu),
        "strongest_dbfs": finite(-scene.strongest_db),
        "noise_dbfs": finite(-scene.noise_db),
        "headroom_db": finite(scene.strongest_db),
    }


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "code": finding.code,
        "severity": finding.severity,
        "place": finding.place or finding.stage,
        "says": finding.says,
        "proof": finding.proof,
        "evidence": {k: finite(v) for k, v in finding.evidence.items()},
        "remedies": [f.title for f in finding.fixes],
    }
