"""Reference values for core/tests/it/references.rs, by general-purpose libraries.

    pip install numpy uncertainties scipy
    python make.py > reference.json
"""
import json
import math
import random

import numpy
import scipy
import scipy.integrate
import scipy.stats
import uncertainties
from uncertainties import ufloat

dice = random.Random(20261125)

# Depths round a circle: m + a cos + b sin with roughness, some places missing; by numpy's lstsq.
rings = []
for of, missing in [(6, []), (6, [2]), (8, [0, 5]), (12, []), (4, []), (5, [1])]:
    m, a, b = dice.uniform(1e6, 4e6), dice.uniform(-3e4, 3e4), dice.uniform(-3e4, 3e4)
    places = [p for p in range(of) if p not in missing]
    angles = [2 * math.pi * p / of for p in places]
    depths = [round(m + a * math.cos(t) + b * math.sin(t) + dice.gauss(0, 2000)) for t in angles]
    design = numpy.array([[1, math.cos(t), math.sin(t)] for t in angles])
    solved, *_ = numpy.linalg.lstsq(design, numpy.array(depths, dtype=float), rcond=None)
    rings.append({
        "of": of, "places": places, "depths": depths, "mean": solved[0],
        "rise": 2 * math.hypot(solved[1], solved[2]),
    })

# Stack sums: each term with limits ±t as u = t/√3, added by the uncertainties package.
stacks = []
for count in (2, 3, 5, 9):
    terms = [{
        "opens": i == 0,
        "length": dice.randrange(40_000_000, 60_000_000) if i == 0 else dice.randrange(1_000_000, 5_000_000),
        "tolerance": dice.randrange(5_000, 60_000),
    } for i in range(count)]
    total = sum((1 if t["opens"] else -1) * ufloat(t["length"], t["tolerance"] / math.sqrt(3)) for t in terms)
    stacks.append({"terms": terms, "sum": total.nominal_value, "u": total.std_dev})

# A tilted plunger: reading × cos θ, propagated.
tilts = []
for reading, degrees, u in [(250_000, 5, 3000), (1_400_000, 12, 4000), (80_000, 30, 2000)]:
    true = ufloat(reading, u) * math.cos(math.radians(degrees))
    tilts.append({"reading": reading, "degrees": degrees, "true": true.nominal_value})

# A clearance even over a bracket whose ends are uncertain: the chance in a window, by quadrature.
brackets = []
for start, end, u, low, high in [
    (100e3, 150e3, 4e3, 120e3, 200e3), (0, 50e3, 2e3, -10e3, 45e3), (90e3, 110e3, 8e3, 100e3, 105e3),
]:
    inside = lambda x: scipy.stats.norm.cdf((high - x) / u) - scipy.stats.norm.cdf((low - x) / u)
    area, _ = scipy.integrate.quad(inside, start, end, epsabs=1e-6)
    brackets.append({"from": start, "to": end, "u": u, "low": low, "high": high, "chance": area / (end - start)})

# Torques: mean, standard uncertainty and Student's interval.
torques = []
for readings, resolution, error in [([1.6, 1.7, 1.65], 0.05, 0.04), ([0.82, 0.9, 0.85, 0.88], 0.02, 0.03)]:
    n = len(readings)
    s = numpy.std(readings, ddof=1) / math.sqrt(n)
    u = math.sqrt(s ** 2 + resolution ** 2 / 12 + error ** 2 / 3)
    dof = (n - 1) * u ** 4 / s ** 4
    torques.append({
        "readings": readings, "resolution": resolution, "error": error, "mean": float(numpy.mean(readings)),
        "u": float(u), "dof": float(dof), "expanded": float(scipy.stats.t.ppf(0.975, dof) * u),
    })

# Travels over quarter turns, not as many at each: float and rock by numpy's lstsq.
quarters = []
for counts in [(1, 1, 1, 1), (2, 1, 1, 1), (3, 1, 2, 0), (1, 4, 1, 2)]:
    m, a, b = dice.uniform(6e4, 3e5), dice.uniform(-2e4, 2e4), dice.uniform(-2e4, 2e4)
    turned = [q for q, count in enumerate(counts) for _ in range(count)]
    angles = [math.pi / 2 * q for q in turned]
    travels = [round(m + a * math.cos(t) + b * math.sin(t) + dice.gauss(0, 1500)) for t in angles]
    design = numpy.array([[1, math.cos(t), math.sin(t)] for t in angles])
    solved, *_ = numpy.linalg.lstsq(design, numpy.array(travels, dtype=float), rcond=None)
    quarters.append({
        "turned": turned, "travels": travels, "float": float(solved[0]),
        "rock": float(math.hypot(solved[1], solved[2])),
    })

# What was expected of a clearance, cut off above a limit: SciPy's truncated normal, and Student's t by quadrature.
still = []
for expected, u, dof, limit, low, high in [
    (-55e3, 14e3, None, 0, -91e3, -23e3), (-8e3, 20e3, None, 0, -60e3, 15e3), (12e3, 16e3, None, 0, -25e3, 40e3),
    (-40e3, 18e3, None, 4e3, -70e3, -12e3), (-50e3, 11e3, 3.4, 0, -90e3, -20e3), (5e3, 9e3, 2.0, 0, -30e3, 20e3),
]:
    if dof is None:
        cut = scipy.stats.truncnorm(-numpy.inf, (limit - expected) / u, loc=expected, scale=u)
        tight, chance = cut.cdf(low), cut.cdf(min(high, limit)) - cut.cdf(low)
    else:
        density = lambda z: scipy.stats.t.pdf(z, dof)
        area = lambda a, b: scipy.integrate.quad(density, a, b, epsabs=1e-12, limit=200)[0]
        z = lambda c: (c - expected) / u
        possible = area(-numpy.inf, z(limit))
        tight, chance = area(-numpy.inf, z(low)) / possible, area(z(low), z(min(high, limit))) / possible
    still.append({
        "expected": expected, "u": u, "dof": dof, "limit": limit, "low_nm": int(low), "high_nm": int(high),
        "tight": float(tight), "chance": float(chance),
    })

json.dump({
    "made_with": {"numpy": numpy.__version__, "scipy": scipy.__version__, "uncertainties": uncertainties.__version__},
    "rings": rings, "stacks": stacks, "tilts": tilts, "brackets": brackets, "torques": torques,
    "still": still, "quarters": quarters,
}, fp=__import__("sys").stdout, indent=1)
print()
