"""Large-signal models of diode, bipolar transistor and JFET with their derivatives.

Each device gives its terminal currents and conductance matrix at given junction voltages, limits
Newton's steps across its junctions (Nagel, SPICE2, UCB/ERL M520, 1975), and lists its noise.
Formulas: Shockley; Gummel–Poon (BSTJ 49, 1970) without high-injection terms; Shichman–Hodges
(IEEE JSSC 3, 1968). Shot noise 2qI (Schottky); channel noise 4kT·(2/3)gm (van der Ziel, 1962).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from tonleiter.core.circuit.chips import OpAmpDevice, RegulatorDevice
from tonleiter.core.circuit.elements import BipolarModel, DiodeModel, JfetModel
from tonleiter.core.circuit.states import DeviceNoise, DeviceState

BOLTZMANN = 1.380649e-23
CHARGE = 1.602176634e-19

Floats = NDArray[np.float64]


def thermal_voltage(temperature_k: float) -> float:
    """KT/q in volts."""
    return BOLTZMANN * temperature_k / CHARGE


def _exponential(v: float, scale: float) -> tuple[float, float]:
    """exp(v/scale) − 1 and its derivative, continued as a straight line where it would overflow."""
    x = v / scale
    if x > 80.0:
        edge = math.exp(80.0)
        return edge * (1.0 + x - 80.0) - 1.0, edge / scale
    return math.expm1(x), math.exp(max(x, -200.0)) / scale


def limit_junction(new: float, old: float, scale: float, critical: float) -> float:
    """Pnjlim of SPICE2: keep a forward junction from jumping far up its exponential."""
    if new <= critical or abs(new - old) <= 2.0 * scale:
        return new
    if old > 0:
        argument = 1.0 + (new - old) / scale
        return old + scale * math.log(argument) if argument > 0 else critical
    return scale * math.log(new / scale)


def _critical(scale: float, is_a: float) -> float:
    return scale * math.log(scale / (math.sqrt(2.0) * is_a)) if is_a > 0 else math.inf


class DiodeDevice:
    """Terminals: anode, cathode (inside the series resistance)."""

    def __init__(self, model: DiodeModel, area: float, temperature_k: float, gmin: float) -> None:
        self._is = model.is_a * area
        self._scale = model.n * thermal_voltage(temperature_k)
        self._critical = _critical(self._scale, self._is)
        self._bv, self._ibv = model.bv_v, model.ibv_a * area
        self._back_critical = _critical(self._scale, self._ibv)
        self._gmin = gmin

    def start(self) -> Floats:
        """Junction voltages that Newton starts from."""
        return np.array([self._critical if math.isfinite(self._critical) else 0.0])

    def junctions(self, v: Floats) -> Floats:
        """Junction voltages from terminal voltages."""
        return np.array([v[0] - v[1]])

    def terminals(self, junctions: Floats) -> Floats:
        """Terminal voltages, up to a common shift, that give these junction voltages."""
        return np.array([junctions[0], 0.0])

    def limit(self, new: Floats, old: Floats) -> Floats:
        """Junction voltages that this iteration may use."""
        if new[0] < -self._bv:
            # the same about the knee, turned round
            back = limit_junction(
                -new[0] - self._bv, -old[0] - self._bv, self._scale, self._back_critical
            )
            return np.array([-back - self._bv])
        return np.array([limit_junction(new[0], old[0], self._scale, self._critical)])

    def evaluate(self, junctions: Floats) -> DeviceState:
        """State at the given junction voltage."""
        vd = float(junctions[0])
        e, de = _exponential(vd, self._scale)
        i = self._is * e + self._gmin * vd
        g = self._is * de + self._gmin
        if math.isfinite(self._bv):
            back, d_back = _exponential(-vd - self._bv, self._scale)
            i -= self._ibv * (back + 1.0)
            g += self._ibv * d_back
        noise = (DeviceNoise("shot", 0, 1, 2 * CHARGE * abs(i)),)
        return DeviceState(
            np.array([i, -i]), np.array([[g, -g], [-g, g]]), noise, {"i_a": i, "v_v": vd}
        )


class BipolarDevice:
    """Terminals: collector, base, emitter."""

    def __init__(self, model: BipolarModel, area: float, temperature_k: float, gmin: float) -> None:
        self._m = model
        self._is = model.is_a * area
        vt = thermal_voltage(temperature_k)
        self._f_scale = model.nf * vt
        self._r_scale = model.nr * vt
        self._f_critical = _critical(self._f_scale, self._is)
        self._r_critical = _critical(self._r_scale, self._is)
        self._gmin = gmin

    def start(self) -> Floats:
        """Junction voltages that Newton starts from: base-emitter on, base-collector off."""
        return np.array([self._f_critical if math.isfinite(self._f_critical) else 0.0, 0.0])

    def junctions(self, v: Floats) -> Floats:
        """Vbe and Vbc of the equivalent NPN."""
        s = self._m.polarity
        return np.array([s * (v[1] - v[2]), s * (v[1] - v[0])])

    def terminals(self, junctions: Floats) -> Floats:
        """Terminal voltages, base at 0, that give these junction voltages."""
        s = self._m.polarity
        return np.array([-s * junctions[1], 0.0, -s * junctions[0]])

    def limit(self, new: Floats, old: Floats) -> Floats:
        """Limit both junctions."""
        return np.array(
            [
                limit_junction(new[0], old[0], self._f_scale, self._f_critical),
                limit_junction(new[1], old[1], self._r_scale, self._r_critical),
            ]
        )

    def evaluate(self, junctions: Floats) -> DeviceState:
        """Terminal currents Ic, Ib, Ie and their derivatives."""
        m, s = self._m, self._m.polarity
        vbe, vbc = float(junctions[0]), float(junctions[1])
        ef, def_ = _exponential(vbe, self._f_scale)
        er, der = _exponential(vbc, self._r_scale)
        icc, gcc = self._is * ef, self._is * def_
        iec, gec = self._is * er, self._is * der
        inv_q = 1.0 - vbc / m.vaf_v if math.isfinite(m.vaf_v) else 1.0
        d_inv_q = -1.0 / m.vaf_v if math.isfinite(m.vaf_v) else 0.0
        gmin = self._gmin
        ic = (icc - iec) * inv_q - iec / m.br - gmin * vbc
        ib = icc / m.bf + iec / m.br + gmin * (vbe + vbc)
        dic_be = gcc * inv_q
        dic_bc = -gec * inv_q + (icc - iec) * d_inv_q - gec / m.br - gmin
        dib_be = gcc / m.bf + gmin
        dib_bc = gec / m.br + gmin
        # rows: currents into collector, base, emitter; columns: voltages of c, b, e
        by_junction = np.array(
            [[dic_be, dic_bc], [dib_be, dib_bc], [-dic_be - dib_be, -dic_bc - dib_bc]]
        )
        to_terminal = np.array([[0.0, 1.0, -1.0], [-1.0, 1.0, 0.0]])
        noise = (
            DeviceNoise("collector", 0, 2, 2 * CHARGE * abs(ic)),
            DeviceNoise("base", 1, 2, 2 * CHARGE * abs(ib)),
        )
        info = {"ic_a": s * ic, "ib_a": s * ib, "vbe_v": s * vbe, "vce_v": s * (vbe - vbc)}
        info["gm_s"] = dic_be
        return DeviceState(s * np.array([ic, ib, -ic - ib]), by_junction @ to_terminal, noise, info)


class JfetDevice:
    """Terminals: drain, gate, source. Gate junctions included, so a forward gate conducts."""

    def __init__(self, model: JfetModel, area: float, temperature_k: float, gmin: float) -> None:
        self._m = self.model = model
        self._beta = model.beta_a_per_v2 * area
        self._is = model.is_a * area
        self._scale = thermal_voltage(temperature_k)
        self._critical = _critical(self._scale, self._is)
        self._4kt = 4 * BOLTZMANN * temperature_k
        self._gmin = gmin

    def start(self) -> Floats:
        """Junction voltages that Newton starts from: gate at source, drain well above."""
        return np.array([0.0, self._m.vto_v - 1.0])

    def junctions(self, v: Floats) -> Floats:
        """Vgs and Vgd of the equivalent N-channel device."""
        s = self._m.polarity
        return np.array([s * (v[1] - v[2]), s * (v[1] - v[0])])

    def terminals(self, junctions: Floats) -> Floats:
        """Terminal voltages, gate at 0, that give these junction voltages."""
        s = self._m.polarity
        return np.array([-s * junctions[1], 0.0, -s * junctions[0]])

    def limit(self, new: Floats, old: Floats) -> Floats:
        """Limit both gate junctions."""
        return np.array(
            [
                limit_junction(a, b, self._scale, self._critical)
                for a, b in zip(new, old, strict=True)
            ]
        )

    def channel(self, vgs: float, vds: float) -> tuple[float, float, float]:
        """Drain current, gm, gds for vds ≥ 0."""
        over = vgs - self._m.vto_v
        if over <= 0:
            return 0.0, 0.0, 0.0
        lam, beta = self._m.lambda_per_v, self._beta
        stretch = 1.0 + lam * vds
        if over <= vds:
            return beta * over**2 * stretch, 2 * beta * over * stretch, beta * over**2 * lam
        shape = vds * (2 * over - vds)
        return (
            beta * shape * stretch,
            2 * beta * vds * stretch,
            beta * (2 * (over - vds) * stretch + shape * lam),
        )

    def evaluate(self, junctions: Floats) -> DeviceState:
        """Terminal currents Id, Ig, Is and their derivatives."""
        s = self._m.polarity
        vgs, vgd = float(junctions[0]), float(junctions[1])
        es, des = _exponential(vgs, self._scale)
        ed, ded = _exponential(vgd, self._scale)
        igs, ggs = self._is * es + self._gmin * vgs, self._is * des + self._gmin
        igd, ggd = self._is * ed + self._gmin * vgd, self._is * ded + self._gmin
        vds = vgs - vgd
        if vds >= 0:
            i_ch, gm, gds = self.channel(vgs, vds)
            d_gs, d_gd = gm + gds, -gds
        else:  # drain and source change places
            i_rev, gm, gds = self.channel(vgd, -vds)
            i_ch, d_gs, d_gd = -i_rev, gds, -(gm + gds)
        i_d, i_g = i_ch - igd, igs + igd
        by_junction = np.array([[d_gs, d_gd - ggd], [ggs, ggd], [-d_gs - ggs, -d_gd]])
        to_terminal = np.array([[0.0, 1.0, -1.0], [-1.0, 1.0, 0.0]])
        noise = (
            DeviceNoise("channel", 0, 2, self._4kt * (2.0 / 3.0) * gm),
            DeviceNoise("gate", 1, 2, 2 * CHARGE * (abs(self._is * es) + abs(self._is * ed))),
        )
        info = {"id_a": s * i_d, "vgs_v": s * vgs, "vds_v": s * vds, "gm_s": gm}
        return DeviceState(
            s * np.array([i_d, i_g, -i_d - i_g]), by_junction @ to_terminal, noise, info
        )


class ModulatedResistorDevice:
    """Terminals: p, n, control p, control n. Its "junction voltages" are v and the control."""

    def __init__(
        self, ohm: float, per_volt: float, noise_v2_per_hz: float, temperature_k: float
    ) -> None:
        self._g, self._m = 1.0 / ohm, per_volt
        self._noise = noise_v2_per_hz
        self._4kt = 4 * BOLTZMANN * temperature_k

    def start(self) -> Floats:
        """At rest."""
        return np.zeros(2)

    def junctions(self, v: Floats) -> Floats:
        """Voltage across and control voltage."""
        return np.array([v[0] - v[1], v[2] - v[3]])

    def terminals(self, junctions: Floats) -> Floats:
        """Terminal voltages with both returns at 0."""
        return np.array([junctions[0], 0.0, junctions[1], 0.0])

    def limit(self, new: Floats, old: Floats) -> Floats:
        """A product of two voltages needs no limiting."""
        return new

    def evaluate(self, junctions: Floats) -> DeviceState:
        """Current, its derivatives, thermal noise and the rustle of the granules."""
        v, u = float(junctions[0]), float(junctions[1])
        stretch = 1.0 + self._m * u
        i, g, gm = self._g * v * stretch, self._g * stretch, self._g * v * self._m
        row = np.array([g, -g, gm, -gm])
        conductances = np.vstack([row, -row, np.zeros((2, 4))])
        noise = (
            DeviceNoise("thermal", 0, 1, self._4kt * self._g),
            DeviceNoise("granules", 0, 1, gm**2 * self._noise),
        )
        return DeviceState(np.array([i, -i, 0.0, 0.0]), conductances, noise, {"i_a": i, "v_v": v})


Device = (
    DiodeDevice
    | BipolarDevice
    | JfetDevice
    | ModulatedResistorDevice
    | OpAmpDevice
    | RegulatorDevice
)
