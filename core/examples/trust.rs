//! How far the program's figures can be trusted: simulated boxes, whose truth is known, measured by simulated gauges. How
//! often the 95 % interval holds the truth, whether stated chances come true as often as they say, and how many verdicts
//! are too close to call, folded and by one t with effective degrees of freedom (JCGM 100). Prints `docs/TRUST.md`.

#![allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // lengths of a few millimetres, and bins

use anvil_core::measure::depth_ring::{self, DepthReading};
use anvil_core::measure::dial::{Trial, estimate_trials};
use anvil_core::measure::known_shim::{self, ShimReading};
use anvil_core::uncertainty::estimate::Estimate;
use anvil_core::uncertainty::gauge::{Gauge, Repeatability};
use anvil_core::uncertainty::student_t::t95;
use anvil_core::units::length::Length;
use anvil_core::verdict::window::Window;
use anvil_core::verdict::{Call, call_of};

const SEED: u64 = 20_261_126;
/// Boxes for each scenario.
const BOXES: usize = 10_000;
/// Stated chances are gathered in so many bins.
const BINS: usize = 10;

/// A stream of numbers from a seed (splitmix64: Steele, Lea, Flood, 2014; from memory).
struct Numbers(u64);

impl Numbers {
    /// From 0 to below 1.
    fn even(&mut self) -> f64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        ((z ^ (z >> 31)) >> 11) as f64 / (1_u64 << 53) as f64
    }

    fn between(&mut self, from: f64, to: f64) -> f64 {
        from + (to - from) * self.even()
    }

    /// A standard normal (Box and Muller).
    fn normal(&mut self) -> f64 {
        let (a, b) = (1.0 - self.even(), self.even());
        (-2.0 * a.ln()).sqrt() * (std::f64::consts::TAU * b).cos()
    }
}

/// A gauge with its error of the day.
struct Used {
    gauge: Gauge,
    step: f64,
    error: f64,
    scatter: f64,
}

impl Used {
    /// A gauge whose error lies anywhere in its ± figure; its scatter is stated, known with degrees of freedom, or not
    /// known at all.
    fn new(numbers: &mut Numbers, step: f64, most_error: f64, scatter: f64, known: Known) -> Self {
        let nm = |nm: f64| Length::from_nm(nm as i64);
        let repeatability = match known {
            Known::Stated => Some(Repeatability {
                s_nm: scatter,
                dof: None,
            }),
            Known::Pooled(dof) => {
                // As the shop's own readings would have told it, rounding and all.
                let rounded = (scatter * scatter + step * step / 12.0).sqrt();
                let chi: f64 = (0..dof).map(|_| numbers.normal().powi(2)).sum();
                Some(Repeatability {
                    s_nm: rounded * (chi / f64::from(dof)).sqrt(),
                    dof: Some(f64::from(dof)),
                })
            }
            Known::NotAtAll => None,
        };
        Self {
            gauge: Gauge::new(nm(step), nm(most_error), repeatability).expect("a sound gauge"),
            step,
            error: numbers.between(-most_error, most_error),
            scatter,
        }
    }

    /// What it reads of a length: whole steps.
    fn read(&self, numbers: &mut Numbers, truth: f64) -> Length {
        let read = truth + self.error + self.scatter * numbers.normal();
        Length::from_nm(((read / self.step).round() * self.step) as i64)
    }
}

#[derive(Clone, Copy)]
enum Known {
    Stated,
    Pooled(u32),
    NotAtAll,
}

/// A way of measuring a truth.
type Measuring = Box<dyn Fn(&mut Numbers, f64) -> Option<Estimate>>;

struct Scenario {
    name: String,
    /// The coverage aimed at holds for it: the scatter is known.
    held: bool,
    measure: Measuring,
}

fn dial(readings: usize, known: Known, stand: f64) -> Measuring {
    Box::new(move |numbers, truth| {
        let mut used = Used::new(numbers, 10_000.0, 8_000.0, 3_000.0, known);
        used.scatter *= stand;
        let trials: Vec<Trial> = (0..readings)
            .map(|_| Trial {
                travel: used.read(numbers, truth),
                ..Trial::default()
            })
            .collect();
        estimate_trials(&trials, used.gauge, &[]).ok()
    })
}

fn ring(places: u16) -> Measuring {
    Box::new(move |numbers, truth| {
        let used = Used::new(numbers, 1_000.0, 3_000.0, 2_000.0, Known::Stated);
        let tilt = numbers.between(0.0, 30_000.0);
        let depths: Vec<DepthReading> = (1..=places)
            .map(|place| {
                let angle = std::f64::consts::TAU * f64::from(place - 1) / f64::from(places);
                let depth_nm = used.read(numbers, truth + tilt * angle.cos());
                DepthReading {
                    place,
                    of: places,
                    depth_nm,
                    bar_nm: Length::ZERO,
                }
            })
            .collect();
        depth_ring::estimate(&depths, used.gauge, &[])
            .ok()
            .map(|found| found.0)
    })
}

fn known_shim(floats: usize) -> Measuring {
    Box::new(move |numbers, truth| {
        let used = Used::new(numbers, 2_540.0, 5_080.0, 2_000.0, Known::Stated);
        let limits = 3_000.0;
        let shim_nm = Length::from_nm(700_000);
        let shim = shim_nm.as_f64() + numbers.between(-limits, limits);
        let taken: Vec<ShimReading> = (0..floats)
            .map(|_| ShimReading {
                shim_nm,
                float_nm: used.read(numbers, truth + shim),
            })
            .collect();
        known_shim::estimate(&taken, used.gauge, limits / 3_f64.sqrt(), &[])
            .0
            .ok()
    })
}

fn scenarios() -> Vec<Scenario> {
    let of = |name: &str, held, measure| Scenario {
        name: name.to_owned(),
        held,
        measure,
    };
    let mut all: Vec<Scenario> = (1..=5)
        .map(|n| {
            of(
                &format!("dial, {n} of stated scatter"),
                true,
                dial(n, Known::Stated, 1.0),
            )
        })
        .collect();
    all.extend((1..=3).map(|n| {
        of(
            &format!("dial, {n} of pooled scatter (20)"),
            true,
            dial(n, Known::Pooled(20), 1.0),
        )
    }));
    all.push(of("ring of six", true, ring(6)));
    all.push(of("ring of four", true, ring(4)));
    all.push(of("known shim, twice", true, known_shim(2)));
    all.push(of("known shim, three times", true, known_shim(3)));
    all.push(of(
        "dial, 3 of their own scatter",
        false,
        dial(3, Known::NotAtAll, 1.0),
    ));
    all.push(of(
        "dial, 2 on a stand that scatters threefold",
        false,
        dial(2, Known::Stated, 3.0),
    ));
    all.push(of(
        "dial, 3 on a stand that scatters threefold",
        false,
        dial(3, Known::Stated, 3.0),
    ));
    all
}

fn main() {
    let mut numbers = Numbers(SEED);
    let window = Window::new(
        Some(Length::from_nm(150_000)),
        Some(Length::from_nm(230_000)),
    )
    .expect("a window");
    println!("# How far the figures can be trusted\n");
    println!(
        "Made by `scripts/trust` from the seed {SEED}: {BOXES} boxes for each way, with a true clearance about a window of 80 µm, gauges whose error lies anywhere in their ± figure and that read whole steps. *Folded* is what the program says: Student's t from the readings folded with the rectangles of step and error (JCGM 101). *By one t* is the same by effective degrees of freedom (JCGM 100), as the working shows beside it.\n"
    );
    println!(
        "| measured by | holds the truth | by one t | ± µm | by one t | too close to call | by one t |"
    );
    println!("|---|---|---|---|---|---|---|");
    let mut bins = vec![(0.0, 0.0, 0_u32); BINS];
    let (mut close, mut close_by_t, mut all) = (0_u32, 0_u32, 0_u32);
    for scenario in scenarios() {
        let (mut held, mut held_by_t, mut wide, mut wide_by_t) = (0_u32, 0_u32, 0.0, 0.0);
        let (mut inconclusive, mut by_t, mut boxes) = (0_u32, 0_u32, 0_u32);
        for _ in 0..BOXES {
            let truth = numbers.between(130_000.0, 250_000.0);
            let Some(found) = (scenario.measure)(&mut numbers, truth) else {
                continue;
            };
            boxes += 1;
            let known = found.distribution();
            let expanded_nm = known.expanded_nm();
            let chance = known.between(found.clearance_nm, window.low_nm(), window.high_nm());
            let of_t = t95(found.dof) * found.u_nm;
            let off = (found.clearance_nm - truth).abs();
            let close_at = |expanded: f64| {
                u32::from(call_of(found.clearance_nm, expanded, window) == Call::Inconclusive)
            };
            held += u32::from(off <= expanded_nm);
            held_by_t += u32::from(off <= of_t);
            wide += expanded_nm;
            wide_by_t += of_t;
            inconclusive += close_at(expanded_nm);
            by_t += close_at(of_t);
            if scenario.held {
                let bin = &mut bins[((chance * BINS as f64) as usize).min(BINS - 1)];
                *bin = (
                    bin.0 + chance,
                    bin.1 + f64::from(u8::from(window.holds(truth))),
                    bin.2 + 1,
                );
            }
        }
        let share = |n: u32| 100.0 * f64::from(n) / f64::from(boxes);
        println!(
            "| {} | {:.1} % | {:.1} % | {:.1} | {:.1} | {:.1} % | {:.1} % |",
            scenario.name,
            share(held),
            share(held_by_t),
            wide / f64::from(boxes) / 1_000.0,
            wide_by_t / f64::from(boxes) / 1_000.0,
            share(inconclusive),
            share(by_t)
        );
        if scenario.held {
            (close, close_by_t, all) = (close + inconclusive, close_by_t + by_t, all + boxes);
            // The aim, and two standard errors of so many boxes.
            let most = 0.7 + 200.0 * (0.95 * 0.05 / f64::from(boxes)).sqrt();
            let off = (share(held) - 95.0).abs();
            assert!(off < most, "{}: {:.2} %", scenario.name, share(held));
        }
    }
    println!(
        "\nOf {all} verdicts with a known scatter {close} are too close to call; by one t {close_by_t} would be, {:.0} % more. With two readings a stand that scatters three times its worth cannot be noticed: the working of two says so.\n",
        100.0 * (f64::from(close_by_t) / f64::from(close) - 1.0)
    );
    println!("| chance stated | boxes | mean stated | came true | standard errors off |");
    println!("|---|---|---|---|---|");
    for (at, (stated, came, n)) in bins.iter().enumerate().filter(|(_, b)| b.2 > 0) {
        let boxes = f64::from(*n);
        let (stated, came) = (stated / boxes, came / boxes);
        let error = (stated * (1.0 - stated) / boxes).sqrt().max(1e-9);
        println!(
            "| {} to {} % | {n} | {:.2} % | {:.2} % | {:+.1} |",
            100 * at / BINS,
            100 * (at + 1) / BINS,
            100.0 * stated,
            100.0 * came,
            (came - stated) / error
        );
    }
}
