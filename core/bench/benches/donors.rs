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

/// So many sizes so far apart, one of each where it is short.
fn drawer(chance: &mut Chance, short: bool, (sizes, apart): (i64, i64)) -> Vec<Stock> {
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
    let sizes = if short { (5, 70) } else { (16, 25) };
    Boxes {
        places,
        checks: (0..checks).map(|j| check(&mut chance, j)).collect(),
        drawers: (0..4).map(|_| drawer(&mut chance, short, sizes)).collect(),
    }
}

/// New parts for a place, and what so many boxes have there; `members` are the places of each check.
fn of_place(
    chance: &mut Chance,
    place: usize,
    members: &[Vec<usize>],
    (donors, spread): (i64, i64),
) -> Vec<Candidate> {
    let mut mine = Vec::new();
    for (j, _) in (members.iter().enumerate()).filter(|(_, m)| m.contains(&place)) {
        mine.push((j, if chance.below(4) == 0 { 1 } else { -1 }));
    }
    let widths = |by: i64, u_nm: f64| -> Vec<AddedWidth> {
        let adds = |(check, sign): &(usize, i64)| AddedWidth {
            check: *check,
            adds: micro(sign * (20_000 + by)),
            u_nm,
        };
        mine.iter().map(adds).collect()
    };
    let mut of = vec![Candidate {
        new: 1,
        widths: widths(0, 8_000.0),
        ..Candidate::default()
    }];
    for _ in 0..donors {
        if chance.below(4) == 0 {
            continue;
        }
        let used = chance.below(1_000);
        of.push(Candidate {
            new: 0,
            worn: u32::from(used > 500),
            fetched: 1,
            used_up: u32::try_from(used).unwrap_or(0),
            widths: widths(chance.below(spread) - spread / 2 - used / 20, 2_000.0),
        });
    }
    of
}

/// Boxes of many shapes: 15 to 100 places, 2 to 25 checks of three to eight places anywhere or near each other, drawers
/// full or of one piece a size.
fn of_all_shapes(seed: u64) -> Boxes {
    let mut chance = Chance(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ 0x1234_5678);
    for _ in 0..5 {
        chance.below(10);
    }
    let up_to = |chance: &mut Chance, n: usize| {
        let n = i64::try_from(n).unwrap_or(i64::MAX);
        usize::try_from(chance.below(n)).unwrap_or(0)
    };
    let (places, checks) = (15 + up_to(&mut chance, 86), 2 + up_to(&mut chance, 24));
    let donors = 2 + chance.below(9);
    let short = chance.below(2) == 0;
    let drawers = 1 + up_to(&mut chance, 5);
    let near = chance.below(2) == 0;
    let members: Vec<Vec<usize>> = (0..checks)
        .map(|j| {
            let first = j * places / checks;
            let mut of: Vec<usize> = (0..3 + chance.below(6))
                .map(|_| {
                    if near {
                        (first + up_to(&mut chance, 10)) % places
                    } else {
                        up_to(&mut chance, places)
                    }
                })
                .collect();
            of.sort_unstable();
            of.dedup();
            of
        })
        .collect();
    let spread = [10, 25, 60][up_to(&mut chance, 3)];
    let all: Vec<Vec<Candidate>> = (0..places)
        .map(|p| of_place(&mut chance, p, &members, (donors, spread)))
        .collect();
    let one = |chance: &mut Chance| {
        let sizes = if short {
            (4 + chance.below(3), 50 + chance.below(30))
        } else {
            (10 + chance.below(8), 20 + chance.below(15))
        };
        drawer(chance, short, sizes)
    };
    let drawers: Vec<Vec<Stock>> = (0..drawers).map(|_| one(&mut chance)).collect();
    let check = |j: usize, chance: &mut Chance| {
        let new = all.iter().flat_map(|of| &of[0].widths);
        let with_new: i64 = new.filter(|w| w.check == j).map(|w| w.adds.nm()).sum();
        let wide = 20 + chance.below(30);
        let middle = micro(60).as_f64() + 500.0 * wide as f64;
        SummedCheck {
            rest: Length::from_nm(micro(1_500 + chance.below(200)).nm() - with_new),
            u_nm: 5_000.0,
            window: Window::new(Some(micro(60)), Some(micro(60 + wide)))
                .expect("limits are in order"),
            aim: TargetRange {
                from_nm: middle,
                to_nm: middle,
            },
            required_probability: 0.95,
            set_by: (chance.below(8) > 0).then(|| {
                let place = Place {
                    drawer: j % drawers.len(),
                    fitted: Length::ZERO,
                    u_fitted_nm: 0.0,
                    least_pieces: 1,
                    most_pieces: 2,
                };
                (place, 1)
            }),
        }
    };
    let checks = (0..checks).map(|j| check(j, &mut chance)).collect();
    Boxes {
        places: all,
        checks,
        drawers,
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
    let large = (0..40).map(|seed| boxes(10, 100, 20, seed % 2 == 1, seed));
    in_time("of 10 boxes, 100 places and 20 checks", large);
    in_time("of all shapes", (0..260).map(of_all_shapes));
}

/// How many problems are proven while a person waits.
fn in_time(of: &str, problems: impl Iterator<Item = Boxes>) {
    let mut times = Vec::new();
    let (mut unproven, mut short_of) = (0, 0);
    for boxes in problems {
        let (found, took) = ours(&boxes);
        times.push(took);
        unproven += usize::from(!found.proven);
        short_of += usize::from(found.tally.set < found.bound.set);
    }
    times.sort_unstable();
    println!(
        "{} problems {of}: {unproven} not proven in {WAIT:?}, {short_of} of them open at how many checks can be set; the median {:.2?}",
        times.len(),
        times[times.len() / 2],
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
