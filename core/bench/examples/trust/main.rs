//! How far the program's figures can be trusted: simulated boxes, whose truth is known, measured by simulated gauges. How
//! often the 95 % interval holds the truth, whether stated chances come true as often as they say, and how many verdicts
//! are too close to call, folded and by one t with effective degrees of freedom (JCGM 100). Prints `docs/TRUST.md`; fails
//! where a figure is further off than is aimed at.

#![allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // lengths of a few millimetres, and bins

use std::sync::atomic::{AtomicUsize, Ordering};
use std::thread::available_parallelism;

use anvil_arithmetic::measure::depth_ring::{self, BarOn, DepthReading};
use anvil_arithmetic::measure::dial::{Trial, estimate_trials};
use anvil_arithmetic::measure::feeler::{self, Fit, Try};
use anvil_arithmetic::measure::known_shim::{self, ShimReading};
use anvil_arithmetic::measure::stack_sum::{self, Term};
use anvil_arithmetic::uncertainty::estimate::{Estimate, Source};
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Window;
use anvil_arithmetic::verdict::{Call, call_of, judge};

mod choices;
mod closings;
// The records that the tests build up.
#[allow(dead_code)]
#[path = "../../../tests/it/common.rs"]
mod common;

const SEED: u64 = 20_261_126;
/// Boxes for each scenario.
const BOXES: usize = 20_000;
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
            // As the shop's own readings told it: pairs of one length each, rounding and all.
            Known::Pooled(dof) => {
                let pair = |numbers: &mut Numbers| {
                    let length = step * numbers.even();
                    let [a, b] =
                        [(); 2].map(|()| to_steps(length + scatter * numbers.normal(), step));
                    (a - b).powi(2) / 2.0
                };
                let squares: f64 = (0..dof).map(|_| pair(numbers)).sum();
                (squares > 0.0).then(|| Repeatability {
                    s_nm: (squares / f64::from(dof)).sqrt(),
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
        Length::from_nm(to_steps(read, self.step) as i64)
    }
}

fn to_steps(read: f64, step: f64) -> f64 {
    (read / step).round() * step
}

#[derive(Clone, Copy)]
enum Known {
    Stated,
    Pooled(u32),
    NotAtAll,
}

/// A way of measuring a truth.
type Measuring = Box<dyn Fn(&mut Numbers, f64) -> Option<Estimate> + Sync>;

struct Scenario {
    name: String,
    /// The coverage aimed at holds for it: the scatter is known.
    held: bool,
    measure: Measuring,
}

fn dial(readings: usize, known: Known, stand: f64) -> Measuring {
    Box::new(move |numbers, truth| {
        let scatter = match known {
            Known::Stated => 3_000.0,
            // What is got from readings has no figure in mind: one is as likely as twice as much.
            Known::Pooled(_) | Known::NotAtAll => 2_000.0 * 4_f64.powf(numbers.even()),
        };
        let mut used = Used::new(numbers, 10_000.0, 8_000.0, scatter, known);
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

/// Leaves two hundredths of a millimetre apart, tried from the thinnest until one is refused.
fn leaves() -> Measuring {
    Box::new(|numbers, truth| {
        let (apart, most_error) = (20_000, 3_000.0);
        let set = Used::new(numbers, 10_000.0, most_error, 0.0, Known::NotAtAll);
        let mut tries = Vec::new();
        for size in (1..).map(|i| i * apart) {
            let refused = truth < size as f64 + numbers.between(-most_error, most_error);
            tries.push(Try {
                size: Length::from_nm(size),
                fit: if refused { Fit::Refused } else { Fit::Goes },
            });
            if refused {
                break;
            }
        }
        feeler::estimate(&tries, set.gauge, &[]).ok()
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
                    bar_on: BarOn::Face,
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

/// A stack of parts that open the gap and parts that fill it, each measured once by one micrometer.
fn sum(open: usize, fill: usize) -> Measuring {
    Box::new(move |numbers, truth| {
        let used = Used::new(numbers, 1_000.0, 4_000.0, 1_500.0, Known::Stated);
        let mut measured = |opens, length: f64| Term {
            what: String::new(),
            opens,
            length_nm: Length::from_nm(length as i64),
            tolerance_nm: None,
            measured_nm: vec![used.read(numbers, length)],
            by: Vec::new(),
        };
        let each = 20_000_000.0;
        let filled: Vec<Term> = (0..fill).map(|_| measured(false, each)).collect();
        let depth = (truth + each * fill as f64) / open as f64;
        let opened = (0..open).map(|_| measured(true, depth));
        let terms: Vec<Term> = opened.chain(filled).collect();
        stack_sum::estimate(&terms, used.gauge, &[])
            .ok()
            .map(|found| found.0)
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
    all.push(of(
        "sum: one opens, four fill, one micrometer",
        true,
        sum(1, 4),
    ));
    all.push(of(
        "sum: three open, three fill, one micrometer",
        true,
        sum(3, 3),
    ));
    all.push(of("known shim, once", true, known_shim(1)));
    all.push(of("known shim, twice", true, known_shim(2)));
    all.push(of("known shim, three times", true, known_shim(3)));
    all.push(of("leaves", true, leaves()));
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

/// What came of the boxes of one way.
#[derive(Default)]
struct Tally {
    boxes: u32,
    held: u32,
    held_by_t: u32,
    wide: f64,
    wide_by_t: f64,
    close: u32,
    close_by_t: u32,
    /// Of chances stated where the gauge's known scatter stood.
    stood: Bins,
    /// Of those where the readings scattered more than the gauge explains, so that their own scatter counted.
    own: Bins,
}

/// Of stated chances: their sum, how often they came true, and how many there were.
type Bins = [(f64, f64, u32); BINS];

impl Tally {
    fn of(scenario: &Scenario, seed: u64) -> Self {
        let mut numbers = Numbers(seed);
        let window = Window::new(
            Some(Length::from_nm(150_000)),
            Some(Length::from_nm(230_000)),
        )
        .expect("a window");
        let mut tally = Self::default();
        for _ in 0..BOXES {
            let truth = numbers.between(100_000.0, 280_000.0);
            let Some(found) = (scenario.measure)(&mut numbers, truth) else {
                continue;
            };
            let verdict = judge(&found, window);
            let (chance, expanded) = (verdict.chance, verdict.expanded_nm);
            let of_t = t95(found.dof) * found.u_nm;
            let off = (found.clearance_nm - truth).abs();
            let by_t = call_of(found.clearance_nm, of_t, window);
            tally.boxes += 1;
            tally.held += u32::from(off <= expanded);
            tally.held_by_t += u32::from(off <= of_t);
            tally.wide += expanded;
            tally.wide_by_t += of_t;
            tally.close += u32::from(verdict.call == Call::Inconclusive);
            tally.close_by_t += u32::from(by_t == Call::Inconclusive);
            let bins = if found.parts.iter().any(|p| p.from == Source::Scatter) {
                &mut tally.own
            } else {
                &mut tally.stood
            };
            put(bins, chance, window.holds(truth));
        }
        tally
    }

    fn share(&self, n: u32) -> f64 {
        100.0 * f64::from(n) / f64::from(self.boxes)
    }
}

/// The boxes of every way, shared out over the machine's threads; each way has a stream of numbers of its own.
fn tallies(scenarios: &[Scenario]) -> Vec<Tally> {
    let next = AtomicUsize::new(0);
    let threads = available_parallelism().map_or(1, usize::from);
    let mut done: Vec<(usize, Tally)> = std::thread::scope(|scope| {
        let workers: Vec<_> = (0..threads)
            .map(|_| {
                scope.spawn(|| {
                    let mut done = Vec::new();
                    loop {
                        let at = next.fetch_add(1, Ordering::Relaxed);
                        let Some(scenario) = scenarios.get(at) else {
                            return done;
                        };
                        done.push((at, Tally::of(scenario, SEED.wrapping_add(at as u64 + 1))));
                    }
                })
            })
            .collect();
        workers
            .into_iter()
            .flat_map(|worker| worker.join().expect("a thread of the simulation"))
            .collect()
    });
    done.sort_by_key(|(at, _)| *at);
    done.into_iter().map(|(_, tally)| tally).collect()
}

fn main() {
    println!("# How far the figures can be trusted\n");
    println!(
        "Made by `scripts/trust` from the seed {SEED}: {BOXES} boxes for each way, with a true clearance anywhere about a window of 80 µm, gauges whose error lies anywhere in their ± figure and that read whole steps. *Folded* is what the program says: Student's t from the readings folded with the rectangles of step and error (JCGM 101). *By one t* is the same by effective degrees of freedom (JCGM 100), as the working shows beside it.\n"
    );
    println!(
        "| measured by | holds the truth | by one t | ± µm | by one t | too close to call | by one t |"
    );
    println!("|---|---|---|---|---|---|---|");
    let scenarios = scenarios();
    let tallies = tallies(&scenarios);
    let (mut close, mut close_by_t, mut all) = (0_u32, 0_u32, 0_u32);
    let (mut stood, mut own) = (Bins::default(), Bins::default());
    for (scenario, tally) in scenarios.iter().zip(&tallies) {
        println!(
            "| {} | {:.1} % | {:.1} % | {:.1} | {:.1} | {:.1} % | {:.1} % |",
            scenario.name,
            tally.share(tally.held),
            tally.share(tally.held_by_t),
            tally.wide / f64::from(tally.boxes) / 1_000.0,
            tally.wide_by_t / f64::from(tally.boxes) / 1_000.0,
            tally.share(tally.close),
            tally.share(tally.close_by_t)
        );
        if !scenario.held {
            continue;
        }
        close += tally.close;
        close_by_t += tally.close_by_t;
        all += tally.boxes;
        add(&mut stood, &tally.stood);
        add(&mut own, &tally.own);
    }
    println!(
        "\nOf {all} verdicts with a known scatter {close} are too close to call; by one t {close_by_t} would be, {:.0} % more. With two readings a stand that scatters three times its worth cannot be noticed: the working of two says so.\n",
        100.0 * (f64::from(close_by_t) / f64::from(close) - 1.0)
    );
    println!("## Stated chances\n\nWhere the gauge's known scatter stood:\n");
    print_bins(&stood);
    println!(
        "\nWhere readings scatter more than the gauge explains, at 5 %, their own scatter counts. Here no stand was off, so each of these was a false alarm, and what is stated is too cautious: less sure of in, and less sure of out, than came true.\n"
    );
    print_bins(&own);
    let still_bins = of_still();
    let chosen = of_choices();
    let (closed, at_least) = of_closed();
    let mut far = Vec::new();
    for chosen in &chosen {
        if (chosen.share() - 95.0).abs() > most_off(chosen.boxes) {
            far.push(format!("{} is further from 95 % than 0.7", chosen.name));
        }
    }
    let of_chosen = chosen.iter().flat_map(|c| &c.bins);
    for bin in still_bins.iter().chain(&closed).chain(of_chosen) {
        // Of some thirty bins one is beyond three standard errors in one run out of twelve.
        if standard_errors(bin).abs() > 3.0 {
            far.push(format!(
                "{} stated, {} came true of {}",
                bin.0, bin.1, bin.2
            ));
        }
    }
    for bin in at_least.iter().filter(|bin| standard_errors(bin) < -3.0) {
        far.push(format!(
            "at least {} stated, and {} came true",
            bin.0, bin.1
        ));
    }
    for (scenario, tally) in scenarios.iter().zip(&tallies).filter(|(of, _)| of.held) {
        if (tally.share(tally.held) - 95.0).abs() > most_off(tally.boxes) {
            far.push(format!("{} is further from 95 % than 0.7", scenario.name));
        }
    }
    for bin in stood.iter().filter(|bin| standard_errors(bin).abs() > 2.0) {
        far.push(format!(
            "{} stated, {} came true of {}",
            bin.0, bin.1, bin.2
        ));
    }
    assert!(far.is_empty(), "{}", far.join("; "));
}

/// How far from 95 % so many boxes may come, in hundredths: the aim, and two standard errors.
fn most_off(boxes: u32) -> f64 {
    0.7 + 200.0 * (0.95 * 0.05 / f64::from(boxes)).sqrt()
}

/// Shafts that do not move.
fn of_still() -> Bins {
    println!(
        "\n## Nothing moves\n\nShafts set to a preload, the window from 40 µm preload to 12 µm float, known beforehand within 6 to 20 µm; of those where the dial shows nothing, what is stated of the preload and what came true. A dial that shows whole micrometres:\n"
    );
    let fine = closings::still(&mut Numbers(SEED ^ 1), 1_000.0);
    print_bins(&fine);
    println!(
        "\nA dial that shows whole hundredths of a millimetre does not see up to 5 µm of float either:\n"
    );
    print_bins(&closings::still(&mut Numbers(SEED ^ 2), 10_000.0));
    fine
}

/// Choices before they are fitted.
fn of_choices() -> Vec<choices::Chosen> {
    println!(
        "\n## Choices\n\nPieces made within ± 20 µm of their marks, chosen for a shaft that was measured three times: how often what came of it lay in the interval stated, and how often it landed as stated.\n"
    );
    println!("| chosen | holds the truth |\n|---|---|");
    let found = choices::chosen(&mut Numbers(SEED ^ 4));
    let mut bins = Bins::default();
    for chosen in &found {
        println!("| {} | {:.1} % |", chosen.name, chosen.share());
        add(&mut bins, &chosen.bins);
    }
    println!();
    print_bins(&bins);
    found
}

/// Boxes that are closed once.
fn of_closed() -> (Bins, Bins) {
    println!(
        "\n## Close once\n\nTwo shafts of one closing, each measured three times with one dial and no shim, and set with the best of a coarse drawer whose pieces are anywhere within ± 20 µm of their marks: the chance stated that both land, and how often both did.\n"
    );
    let (stated, at_least) = closings::closed(&mut Numbers(SEED ^ 3));
    print_bins(&stated);
    println!("\nThe chance that is never less (Boole), which came true at least as often:\n");
    print_bins(&at_least);
    (stated, at_least)
}

/// Puts a stated chance, and whether it came true, into its bin.
fn put(bins: &mut Bins, chance: f64, came_true: bool) {
    let bin = &mut bins[((chance * BINS as f64) as usize).min(BINS - 1)];
    *bin = (
        bin.0 + chance,
        bin.1 + f64::from(u8::from(came_true)),
        bin.2 + 1,
    );
}

fn add(sum: &mut Bins, bins: &Bins) {
    for (sum, bin) in sum.iter_mut().zip(bins) {
        *sum = (sum.0 + bin.0, sum.1 + bin.1, sum.2 + bin.2);
    }
}

fn print_bins(bins: &Bins) {
    println!("| chance stated | boxes | mean stated | came true | standard errors off |");
    println!("|---|---|---|---|---|");
    for (at, bin) in bins.iter().enumerate().filter(|(_, bin)| bin.2 > 0) {
        let boxes = f64::from(bin.2);
        println!(
            "| {} to {} % | {boxes} | {:.2} % | {:.2} % | {:+.1} |",
            100 * at / BINS,
            100 * (at + 1) / BINS,
            100.0 * bin.0 / boxes,
            100.0 * bin.1 / boxes,
            standard_errors(bin)
        );
    }
}

/// How many of its standard errors the share that came true is from the one stated.
fn standard_errors(&(stated, came, boxes): &(f64, f64, u32)) -> f64 {
    let boxes = f64::from(boxes);
    let mean = stated / boxes;
    (came / boxes - mean) / (mean * (1.0 - mean) / boxes).sqrt().max(1e-9)
}
