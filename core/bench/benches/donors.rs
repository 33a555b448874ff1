//! The best box from several dismantled ones, beside a general mixed-integer solver.

use std::time::{Duration, Instant};

use anvil_arithmetic::allocate::Place;
use anvil_arithmetic::allocate::donors::{
    AddedWidth, BestBox, Boxes, Candidate, SummedCheck, best_box, part_by_part,
};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use anvil_references::donors::by_solver;
use criterion::{Criterion, criterion_group, criterion_main};

/// How long the general solver may take over one problem.
const PATIENCE: Duration = Duration::from_mins(1);
/// How long a person waits.
const WAIT: Duration = Duration::from_secs(2);

/// Figures that look like chance, the same in every run.
struct Chance(u64);

impl Chance {
    fn below(&mut self, n: i64) -> i64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        i64::try_from(self.0 >> 33).unwrap_or(0) % n
    }
}

fn micro(n: i64) -> Length {
    Length::from_nm(n * 1_000)
}

/// So many dismantled boxes, and new parts, for so many places; each check is the sum of six places, of which it shares
/// one with the check before it and one with the check after it. `short` drawers have one of each size, and few of them.
fn boxes(donors: i64, places: usize, checks: usize, short: bool, seed: u64) -> Boxes {
    let mut chance = Chance(seed);
    let of_place = |chance: &mut Chance, p: usize| -> Vec<Candidate> {
        let mine: Vec<usize> = (0..checks)
            .filter(|j| (0..6).any(|m| (j * 5 + m) % places == p))
            .collect();
        let widths = |by: i64, u_nm: f64| -> Vec<AddedWidth> {
            let adds = |check: &usize| AddedWidth {
                check: *check,
                adds: micro(-20_000 - by),
                u_nm,
            };
            mine.iter().map(adds).collect()
        };
        let mut all = vec![Candidate {
            new: 1,
            worn: 0,
            fetched: 0,
            used_up: 0,
            widths: widths(0, 8_000.0),
        }];
        for _ in 0..donors {
            if chance.below(4) == 0 {
                continue;
            }
            let used = chance.below(1_000);
            all.push(Candidate {
                new: 0,
                worn: u32::from(used > 500),
                fetched: 1,
                used_up: u32::try_from(used).unwrap_or(0),
                widths: widths(chance.below(25) - 12 - used / 20, 2_000.0),
            });
        }
        all
    };
    let places: Vec<Vec<Candidate>> = (0..places).map(|p| of_place(&mut chance, p)).collect();
    let check = |chance: &mut Chance, j: usize| SummedCheck {
        rest: micro(6 * 20_000 + 1_500 + chance.below(200)),
        u_nm: 5_000.0,
        window: Window::new(Some(micro(60)), Some(micro(90))).expect("limits are in order"),
        aim: TargetRange {
            from_nm: 75_000.0,
            to_nm: 75_000.0,
        },
        required_probability: 0.95,
        set_by: Some((
            Place {
                drawer: j % 4,
                fitted: Length::ZERO,
                u_fitted_nm: 0.0,
                least_pieces: 1,
                most_pieces: 2,
            },
            1,
        )),
    };
    let drawer = |chance: &mut Chance| -> Vec<Stock> {
        let (sizes, apart) = if short { (5, 70) } else { (16, 25) };
        (0..sizes)
            .map(|i| Stock {
                thickness_nm: micro(1_400 + i * apart),
                grade: Grade::Marked,
                u_nm: 800.0,
                quantity: if short {
                    1
                } else {
                    1 + u32::try_from(chance.below(3)).unwrap_or(0)
                },
                source: Availability::OnHand,
            })
            .collect()
    };
    Boxes {
        places,
        checks: (0..checks).map(|j| check(&mut chance, j)).collect(),
        drawers: (0..4).map(|_| drawer(&mut chance)).collect(),
    }
}

fn ours(boxes: &Boxes) -> (BestBox, Duration) {
    let start = Instant::now();
    let found = best_box(boxes, |_| start.elapsed() < WAIT).expect("the boxes are sound");
    (found, start.elapsed())
}

/// What the figures of a tally cost: no sum of the later ones comes up to one of the earlier.
fn worth(boxes: &Boxes) -> [f64; 5] {
    let most = |of: fn(&Candidate) -> u32| -> f64 {
        let of_place = |p: &Vec<Candidate>| f64::from(p.iter().map(of).max().unwrap_or(0));
        1.0 + boxes.places.iter().map(of_place).sum::<f64>()
    };
    let fetched = most(|c| c.used_up);
    let worn = fetched * most(|c| c.fetched);
    let new = worn * most(|c| c.worn);
    [new * most(|c| c.new), new, worn, fetched, 1.0]
}

/// The general solver on the same, and how long it took.
fn solved(boxes: &Boxes, patience: Duration) -> (Option<f64>, Duration) {
    let start = Instant::now();
    let found = by_solver(boxes, worth(boxes), patience);
    (found, start.elapsed())
}

fn side_by_side() {
    println!(
        "boxes, places, checks, drawers   checks set: best box, part by part   proven   ours        solver      ratio"
    );
    let sizes = [(2, 10, 2), (3, 15, 3), (4, 25, 5), (10, 100, 20)];
    for (donors, places, checks) in sizes {
        for short in [false, true] {
            let boxes = boxes(donors, places, checks, short, 11);
            let (found, took) = ours(&boxes);
            let naive = part_by_part(&boxes).expect("the boxes are sound");
            let [out, new, worn, fetched, used] = worth(&boxes);
            let t = found.tally;
            let cost = out * (checks - t.set) as f64
                + new * t.new as f64
                + worn * t.worn as f64
                + fetched * t.fetched as f64
                + used * t.used_up as f64;
            let (solver, solver_took) = solved(&boxes, PATIENCE);
            if let Some(solver) = solver.filter(|_| found.proven) {
                assert!(
                    (solver - cost).abs() < 0.5,
                    "{cost} and the solver {solver}"
                );
            }
            println!(
                "{donors:>5} {places:>7} {checks:>7}   {:<8} {:>10} {:>14}            {:<8} {took:>9.2?} {solver_took:>11.2?} {}{:.0}",
                if short { "short" } else { "full" },
                t.set,
                naive.tally.set,
                if found.proven { "yes" } else { "no" },
                if solver.is_some() { "" } else { "over " },
                solver_took.as_secs_f64() / took.as_secs_f64(),
            );
            if !found.proven {
                println!(
                    "      best {t:?}, no better than {:?}, {} branches",
                    found.bound, found.looked_at
                );
            }
        }
    }
    let mut slowest = Duration::ZERO;
    let (mut unproven, tried) = (0, 40);
    for seed in 0..tried {
        let (found, took) = ours(&boxes(10, 100, 20, seed % 2 == 1, seed));
        slowest = slowest.max(took);
        unproven += u32::from(!found.proven);
    }
    println!(
        "{tried} problems of 10 boxes, 100 places and 20 checks: {unproven} not proven in {WAIT:?}, the slowest took {slowest:.2?}"
    );
}

fn donors(c: &mut Criterion) {
    side_by_side();
    let full = boxes(10, 100, 20, false, 11);
    c.bench_function("donors/10 boxes, 100 places, 20 checks", |b| {
        b.iter(|| best_box(&full, |_| true));
    });
}

criterion_group!(benches, donors);
criterion_main!(benches);
