"""Gas along one way, stretch by stretch: how it cools forward, what pressure it takes counted back from its end.

One dimension, steady. Forward: total temperature falls by what the wall takes, through the film inside (Gnielinski),
the wall and what is wrapped round it, and off the skin by free or forced air (Churchill and Chu; Churchill and
Bernstein) and radiation. Back: momentum with friction (Colebrook) and losses spread along their piece; a change of area
keeps total pressure but for its loss. Where the gas would have to be faster than sound it *chokes*: it leaves there at
the speed of sound and whatever pressure that takes.

A stretch is a row (n, COLUMNS), SI units; what it holds stands beside each index.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

(
    LENGTH,
    BORE,
    OUTSIDE,
    WALL_R,
    LOSS,
    ROUGH,
    FRICTION_FACTOR,
    LAMINAR,
    FILM_FACTOR,
    EMISSIVITY,
    WRAP_M,
    WRAP_K,
    STEP_LOSS,
    SHELTERED,
) = range(14)
# length; bore; outside diameter [m]; wall's resistance [m2 K/W]; loss coefficient along it; roughness [m]; friction as
# a multiple of a pipe's; laminar loss [1/m, by viscosity and speed]; how the pulses stir the film; emissivity; wrap
# thickness [m] and conductivity [W/m K]; loss at its inlet, on the faster side's speed; 1 where no wind gets at it
COLUMNS = 14
# the table of the gas's properties begins here and goes on by this [K]: here, since compiled code holds them
LOW_K, STEP_K = 250.0, 50.0
SIGMA = 5.670374419e-8
MOST_MACH = 0.999
# what a node is: static pressure, total pressure [Pa], static temperature [K], Mach number, speed [m/s]
STATIC, TOTAL, KELVIN, MACH, SPEED = range(5)


@njit(cache=True, error_model="numpy")
def _of(table, row, kelvin):
    """A property at a temperature [K]."""
    x = (kelvin - LOW_K) / STEP_K
    i = min(max(int(x), 0), table.shape[1] - 2)
    return table[row, i] + (x - i) * (table[row, i + 1] - table[row, i])


@njit(cache=True, error_model="numpy")
def darcy(reynolds, rough):
    """Darcy's friction factor: laminar, else Colebrook; between 2300 and 4000 a blend so that nothing jumps."""
    if reynolds <= 0.0:
        return 0.0
    if reynolds < 2300.0:
        return 64.0 / reynolds
    at = max(reynolds, 4000.0)
    x = -2.0 * math.log10(rough / 3.7 + 5.74 / at**0.9)
    for _ in range(4):
        inner = rough / 3.7 + 2.51 * x / at
        x -= (x + 2.0 * math.log10(inner)) / (1.0 + 2.18 / (at * inner))
    rough_f = 1.0 / (x * x)
    if reynolds < 4000.0:
        share = (reynolds - 2300.0) / 1700.0
        return (1.0 - share) * 64.0 / 2300.0 + share * rough_f
    return rough_f


@njit(cache=True, error_model="numpy")
def _film(kg_s, seg, table, kelvin):
    """Return the film coefficient inside the wall [W/m2 K]."""
    mu, k = _of(table, 1, kelvin), _of(table, 2, kelvin)
    reynolds = 4.0 * kg_s / (math.pi * seg[BORE] * mu)
    prandtl = _of(table, 0, kelvin) * mu / k
    laminar = 3.66
    if reynolds < 2300.0:
        nusselt = laminar
    else:
        eighth = darcy(max(reynolds, 4000.0), seg[ROUGH] / seg[BORE]) / 8.0
        at = max(reynolds, 4000.0)
        nusselt = eighth * (at - 1000.0) * prandtl / (1.0 + 12.7 * math.sqrt(eighth) * (prandtl ** (2.0 / 3.0) - 1.0))
        if reynolds < 4000.0:
            nusselt = laminar + (nusselt - laminar) * (reynolds - 2300.0) / 1700.0
    return nusselt * seg[FILM_FACTOR] * k / seg[BORE]


@njit(cache=True, error_model="numpy")
def convective_flux(skin, around, across, wind):
    """Return the convective flux off a lying pipe's skin [W/m2], temperatures in K, the air at a mean of both."""
    mean = 0.5 * (skin + around)
    mu = 1.716e-5 * (mean / 273.15) ** 1.5 * (273.15 + 110.4) / (mean + 110.4)
    k = 0.0241 * (mean / 273.15) ** 0.85
    nu, pr = mu * 287.05 * mean / 101325.0, 0.70
    rayleigh = 9.81 / mean * abs(skin - around) * across**3 / (nu * nu) * pr
    free = (0.60 + 0.387 * rayleigh ** (1.0 / 6.0) / (1.0 + (0.559 / pr) ** (9.0 / 16.0)) ** (8.0 / 27.0)) ** 2
    re = wind * across / nu
    forced = 0.0
    if re > 1.0:
        forced = (
            0.3
            + 0.62
            * math.sqrt(re)
            * pr ** (1.0 / 3.0)
            / (1.0 + (0.4 / pr) ** (2.0 / 3.0)) ** 0.25
            * (1.0 + (re / 282000.0) ** 0.625) ** 0.8
        )
    return max(free, forced) * k / across * (skin - around)


@njit(cache=True, error_model="numpy")
def _heat_loss(skin, around, across, black, wind):
    """Return the heat loss of a pipe's skin to the air and round it [W/m2]."""
    return convective_flux(skin, around, across, wind) + black * SIGMA * (skin**4 - around**4)


@njit(cache=True, error_model="numpy")
def _skin(kg_s, seg, table, gas, around, wind, guess):
    """The skin's temperature [K], what goes through it [W/m of pipe], and the film inside [W/m2 K]."""
    film = _film(kg_s, seg, table, gas)
    inner = math.pi * seg[BORE]
    outer = seg[OUTSIDE] + 2.0 * seg[WRAP_M]
    resists = 1.0 / (film * inner) + seg[WALL_R] / inner
    if seg[WRAP_M] > 0.0:
        resists += math.log(outer / seg[OUTSIDE]) / (2.0 * math.pi * seg[WRAP_K])
    blows = 0.0 if seg[SHELTERED] > 0.5 else wind
    skin = 0.5 * (around + gas) if guess <= 0.0 else guess
    for _ in range(6):  # Newton, the film's own change left out
        sheds = _heat_loss(skin, around, outer, seg[EMISSIVITY], blows) * math.pi * outer
        slope = sheds / max(skin - around, 1.0) + 3.0 * seg[EMISSIVITY] * SIGMA * skin**3 * math.pi * outer
        step = ((gas - skin) / resists - sheds) / (1.0 / resists + slope)
        skin = min(max(skin + step, around), gas)
        if abs(step) < 0.01:
            break
    return skin, (gas - skin) / resists, film


@njit(cache=True, error_model="numpy", nogil=True)
def cool(kg_s, enters, segments, table, around, wind):
    """Forward: total temperatures at the nodes (n + 1,) and the skin's of each stretch (n,) [K]; the wall's where there
    is a wrap is the gas's side of it.
    """
    n = segments.shape[0]
    total, skins, walls = np.empty(n + 1), np.empty(n), np.empty(n)
    total[0] = enters
    skin = 0.0
    for i in range(n):
        seg = segments[i]
        middle = total[i]
        leaves = total[i]
        for _ in range(2):  # then at the stretch's middle
            skin, watts, film = _skin(kg_s, seg, table, middle, around, wind, skin)
            conducts = watts / max(middle - around, 1e-9)
            cp = _of(table, 0, middle)
            leaves = around + (total[i] - around) * math.exp(-conducts * seg[LENGTH] / (kg_s * cp))
            middle = 0.5 * (total[i] + leaves)
        total[i + 1] = leaves
        skins[i] = skin
        walls[i] = middle - watts / (film * math.pi * seg[BORE])
    return total, skins, walls


@njit(cache=True, error_model="numpy")
def _ratio(table, constant, kelvin):
    cp = _of(table, 0, kelvin)
    return cp / (cp - constant)


@njit(cache=True, error_model="numpy")
def _flux(mach, gamma):
    """Mass flow by area over total pressure, times the root of R T0 / gamma."""
    return mach * (1.0 + 0.5 * (gamma - 1.0) * mach * mach) ** (-0.5 * (gamma + 1.0) / (gamma - 1.0))


@njit(cache=True, error_model="numpy")
def _mach_of(flux, gamma):
    """The subsonic Mach number of a flux, or `MOST_MACH` where there is none."""
    if flux >= _flux(MOST_MACH, gamma):
        return MOST_MACH
    low, high = 0.0, MOST_MACH
    for _ in range(44):
        mid = 0.5 * (low + high)
        if _flux(mid, gamma) < flux:
            low = mid
        else:
            high = mid
    return 0.5 * (low + high)


@njit(cache=True, error_model="numpy")
def _node(out, i, static, flux_area, total_k, table, constant):
    """A node from its static pressure [Pa], mass flow by area and total temperature; whether it would choke."""
    kelvin = total_k
    gamma = _ratio(table, constant, kelvin)
    speed = 0.0
    choked = False
    for _ in range(12):
        cp = _of(table, 0, 0.5 * (kelvin + total_k))
        gamma = _ratio(table, constant, kelvin)
        speed = flux_area * constant * kelvin / static
        sound = math.sqrt(gamma * constant * kelvin)
        if speed > MOST_MACH * sound:
            choked = True
            speed = MOST_MACH * sound
            kelvin = total_k / (1.0 + 0.5 * (gamma - 1.0) * MOST_MACH**2)
            static = flux_area * constant * kelvin / (MOST_MACH * math.sqrt(gamma * constant * kelvin))
        else:
            cooler = total_k - 0.5 * speed * speed / cp
            settled = abs(cooler - kelvin) < 1e-7 * kelvin
            kelvin = cooler
            if settled:
                break
    sound = math.sqrt(gamma * constant * kelvin)
    mach = speed / sound
    out[i, STATIC], out[i, KELVIN], out[i, MACH], out[i, SPEED] = static, kelvin, mach, speed
    out[i, TOTAL] = static * (1.0 + 0.5 * (gamma - 1.0) * mach * mach) ** (gamma / (gamma - 1.0))
    return choked


@njit(cache=True, error_model="numpy")
def _from_total(out, i, total_pa, flux_area, total_k, table, constant):
    """A node from its total pressure; where so much cannot pass, the total pressure that would let it, and True."""
    gamma = _ratio(table, constant, total_k)
    flux = flux_area * math.sqrt(constant * total_k / gamma) / total_pa
    mach = _mach_of(flux, gamma)
    choked = mach >= MOST_MACH
    if choked:
        total_pa = flux_area * math.sqrt(constant * total_k / gamma) / _flux(MOST_MACH, gamma)
    static = total_pa * (1.0 + 0.5 * (gamma - 1.0) * mach * mach) ** (-gamma / (gamma - 1.0))
    for _ in range(3):  # the heat ratio is that of the cooler, faster gas
        choked = _node(out, i, static, flux_area, total_k, table, constant) or choked
        static *= total_pa / out[i, TOTAL] if not choked else 1.0
    return choked


@njit(cache=True, error_model="numpy", nogil=True)
def press(kg_s, ends, is_static, segments, total_k, table, constant):
    """Back from the end: what each stretch is at its inlet (n, 5) and outlet (n, 5), and the first stretch from the end
    that chokes, or -1. `ends` is the pressure there [Pa]: static where it opens to the air, else total.
    """
    n = segments.shape[0]
    inlet, outlet = np.empty((n, 5)), np.empty((n, 5))
    chokes = -1
    for k in range(n):
        i = n - 1 - k
        seg = segments[i]
        area = 0.25 * math.pi * seg[BORE] ** 2
        flux_area = kg_s / area
        if k == 0:
            if is_static:
                choked = _node(outlet, i, ends, flux_area, total_k[n], table, constant)
            else:
                choked = _from_total(outlet, i, ends, flux_area, total_k[n], table, constant)
        behind = segments[min(i + 1, n - 1)]
        if k > 0 and seg[BORE] == behind[BORE] and behind[STEP_LOSS] == 0.0:
            outlet[i] = inlet[i + 1]
            choked = False
        elif k > 0:
            smaller_here = seg[BORE] <= behind[BORE]
            # the loss is on the faster side's own pressure: that side is known, or nearly so
            head = inlet[i + 1, TOTAL] - inlet[i + 1, STATIC]
            if smaller_here:
                _from_total(outlet, i, inlet[i + 1, TOTAL], flux_area, total_k[i + 1], table, constant)
                head = outlet[i, TOTAL] - outlet[i, STATIC]
            total = inlet[i + 1, TOTAL] + behind[STEP_LOSS] * head
            choked = _from_total(outlet, i, total, flux_area, total_k[i + 1], table, constant)
        mu = _of(table, 1, 0.5 * (total_k[i] + total_k[i + 1]))
        reynolds = flux_area * seg[BORE] / mu
        factor = darcy(reynolds, seg[ROUGH] / seg[BORE]) * seg[FRICTION_FACTOR]
        static = outlet[i, STATIC]
        for _ in range(6):
            _node(inlet, i, static, flux_area, total_k[i], table, constant)
            speed = 0.5 * (inlet[i, SPEED] + outlet[i, SPEED])
            takes = (factor * seg[LENGTH] / seg[BORE] + seg[LOSS]) * 0.5 * flux_area * speed
            takes += seg[LAMINAR] * mu * speed
            before = static
            static = outlet[i, STATIC] + takes + flux_area * (outlet[i, SPEED] - inlet[i, SPEED])
            if abs(static - before) < 1e-3:
                break
        if choked and chokes < 0:
            chokes = i
    return inlet, outlet, chokes
