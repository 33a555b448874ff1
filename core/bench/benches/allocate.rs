//! Sharing one drawer out among the checks of a box, beside a general mixed-integer solver, and among
//! those of a whole bench.

use std::time::{Duration, Instant};

use anvil_arithmetic::allocate::{Allocation, Group, Moved, Place, allocate};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use criterion::{Criterion, criterion_group, criterion_main};
use microlp::{ComparisonOp, OptimizationDirection, Problem, Variable};

/// How long the general solver may take over one box.
const PATIENCE: Duration = Duration::from_secs(20);
/// How many contested boxes are tried.
const CONTESTED: u64 = 300;
/// How long a person waits for a whole bench.
const WAIT: Duration = Duration::from_secs(2);

/// Sizes about 20 µm apart, as a micrometer gives them or as marked, so many and one more of each.
fn drawer(sizes: i64, marked: bool, of_each: u32) -> Vec<Stock> {
    let line = |i: i64| Stock {
        thickness_nm: Length::from_nm(
            400_000 + i * 20_000 + if marked { 0 } else { (i * 7_919) % 6_000 },
        ),
        grade: Grade::Marked,
        u_nm: 800.0,
        quantity: of_each + u32::try_from(i % 3 / 2).unwrap_or(0),
        source: Availability::OnHand,
    };
    (0..sizes).map(line).collect()
}

/// Checks that all want about the same, so that they stand in each other's way.
fn checks(count: i64, thickest: i64, pieces: u32) -> Vec<Group> {
    let check = |i: i64| Group {
        places: vec![Place {
            drawer: 0,
            fitted: Length::ZERO,
            u_fitted_nm: 0.0,
            least_pieces: 1,
            most_pieces: pieces,
        }],
        checks: vec![Moved {
            clearance_nm: (thickest / 2 * i64::from(pieces) + (i * 104_729) % (thickest / 8))
                as f64,
            u_nm: 2_000.0,
            dof: Some(8.0),
            shape: None,
            window: Window::new(
                Some(Length::from_nm(50_000)),
                Some(Length::from_nm(110_000)),
            )
            .expect("limits are in order"),
            aim: TargetRange {
                from_nm: 80_000.0,
                to_nm: 80_000.0,
            },
            required_probability: 0.95,
            effects: vec![1.0],
            u_effects: 0.0,
            yields: false,
        }],
        pinned: None,
    };
    (0..count).map(check).collect()
}

fn ours(groups: &[Group], stock: &[Stock]) -> (Allocation, Duration) {
    let start = Instant::now();
    let drawers = [stock.to_vec()];
    let found =
        allocate(groups, &drawers, |_| start.elapsed() < WAIT).expect("the request is sound");
    (found, start.elapsed())
}

/// Most checks inside, then least total distance, in one sum: whole counts of each size for each
/// check, in µm. Without the required probability of chance, which all that come into question here reach. What it
/// found of the total distance in µm, where it finished, and the time it took.
fn by_solver(groups: &[Group], stock: &[Stock], patience: Duration) -> (Option<f64>, Duration) {
    let micro = |nm: f64| nm / 1_000.0;
    let mut problem = Problem::new(OptimizationDirection::Minimize);
    problem.set_time_limit(patience);
    let mut of_size: Vec<Vec<(Variable, f64)>> = vec![vec![]; stock.len()];
    for group in groups {
        let check = &group.checks[0];
        let out = problem.add_binary_var(10_000.0);
        // No further from the target than the window is wide each side of it.
        let reach = check.window.width_nm().expect("both limits are set") / 2.0;
        let off = problem.add_var(1.0, (0.0, micro(reach)));
        let most = |q: u32| i32::try_from(q).unwrap_or(i32::MAX);
        let counts: Vec<_> = stock
            .iter()
            .map(|s| problem.add_integer_var(0.0, (0, most(s.quantity))))
            .collect();
        let wanted = micro(check.clearance_nm - check.aim.from_nm);
        let far = 10.0 * wanted;
        let sum = |sign: f64| -> Vec<_> {
            let terms = counts.iter().zip(stock);
            terms
                .map(|(v, s)| (*v, sign * micro(s.thickness_nm.as_f64())))
                .chain([(off, 1.0), (out, far)])
                .collect()
        };
        problem.add_constraint(sum(1.0), ComparisonOp::Ge, wanted);
        problem.add_constraint(sum(-1.0), ComparisonOp::Ge, -wanted);
        let pieces: Vec<_> = counts.iter().map(|v| (*v, 1.0)).collect();
        let most_pieces = f64::from(group.places[0].most_pieces);
        problem.add_constraint(pieces.as_slice(), ComparisonOp::Le, most_pieces);
        for (terms, count) in of_size.iter_mut().zip(counts) {
            terms.push((count, 1.0));
        }
    }
    for (terms, s) in of_size.iter().zip(stock) {
        problem.add_constraint(terms.as_slice(), ComparisonOp::Le, f64::from(s.quantity));
    }
    let start = Instant::now();
    let outcome = problem.solve();
    let took = start.elapsed();
    let found = outcome.ok().and_then(|o| o.into_solution().ok());
    (
        found.map(|s| s.objective()).filter(|_| took < patience),
        took,
    )
}

/// The same boxes by both, in one run.
fn side_by_side() {
    println!(
        "box                              ours, µm off   solver, µm off   ours      solver    ratio"
    );
    for (count, sizes, pieces) in [(2, 6, 2), (3, 10, 2), (4, 20, 2), (8, 120, 3)] {
        for marked in [true, false] {
            let stock = drawer(sizes, marked, 1);
            let thickest = stock.last().map_or(0, |s| s.thickness_nm.nm());
            let groups = checks(count, thickest, pieces);
            let _warm = ours(&groups, &stock);
            let (found, our_time) = ours(&groups, &stock);
            assert!(found.proven, "not proven");
            let worth = found.tally.distance_nm / 1_000.0
                + 10_000.0 * (groups.len() - found.tally.inside) as f64;
            let (solver, solver_time) = by_solver(&groups, &stock, PATIENCE);
            if let Some(solver) = solver {
                assert!(
                    (solver - worth).abs() < 0.1,
                    "{worth} and the solver {solver}"
                );
            }
            println!(
                "{count} checks, {sizes:>3} sizes, {pieces} pieces, {} {worth:>12.3} {:>14} {our_time:>12.2?} {solver_time:>9.2?} {}{:.0}",
                if marked { "marked" } else { "by mic" },
                solver.map_or("unproved".into(), |o| format!("{o:.3}")),
                if solver.is_none() { "over " } else { "" },
                solver_time.as_secs_f64() / our_time.as_secs_f64()
            );
        }
    }
}

/// A stream of numbers from a seed (splitmix64: Steele, Lea, Flood, 2014; from memory).
struct Numbers(u64);

impl Numbers {
    fn next(&mut self, below: i64) -> i64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        i64::try_from((z ^ (z >> 31)) % below.unsigned_abs()).unwrap_or(0)
    }
}

/// A box whose checks want more of the same few sizes than there are: five to eight checks, six to eighteen sizes of a
/// piece or two, stacks to three.
fn contested(seed: u64) -> (Vec<Group>, Vec<Stock>) {
    let mut numbers = Numbers(seed);
    let (count, sizes) = (5 + numbers.next(4), 6 + numbers.next(13));
    let stock: Vec<Stock> = (0..sizes)
        .map(|i| Stock {
            thickness_nm: Length::from_nm(300_000 + i * 25_000 + numbers.next(9) * 1_000),
            grade: Grade::Marked,
            u_nm: 0.0,
            quantity: 1 + u32::try_from(numbers.next(2)).unwrap_or(0),
            source: Availability::OnHand,
        })
        .collect();
    let mut groups = checks(count, 400_000, 3);
    for group in &mut groups {
        let check = &mut group.checks[0];
        let wide = 15_000 + numbers.next(40) * 1_000;
        let low = 40_000 + numbers.next(20) * 1_000;
        check.window = Window::new(
            Some(Length::from_nm(low)),
            Some(Length::from_nm(low + wide)),
        )
        .expect("limits are in order");
        let middle = (low + wide / 2) as f64;
        check.aim = TargetRange {
            from_nm: middle,
            to_nm: middle,
        };
        check.clearance_nm = (600_000 + numbers.next(500) * 1_000) as f64;
        (check.u_nm, check.dof) = (0.0, None);
    }
    (groups, stock)
}

/// Many contested boxes: all proven, and beside the general solver in the same run for those that it finishes.
fn contested_boxes(boxes: u64) {
    let (mut proven, mut slower, mut worst, mut branches) = (0, 0, Duration::ZERO, 0);
    let mut ratios = Vec::new();
    for seed in 0..boxes {
        let (groups, stock) = contested(seed);
        let (found, took) = ours(&groups, &stock);
        proven += u64::from(found.proven);
        worst = worst.max(took);
        branches = branches.max(found.looked_at);
        let (solver, solver_took) = by_solver(&groups, &stock, Duration::from_millis(500));
        let worth = found.tally.distance_nm / 1_000.0
            + 10_000.0 * (groups.len() - found.tally.inside) as f64;
        if let Some(solver) = solver {
            assert!(
                (solver - worth).abs() < 0.1,
                "box {seed}: {worth} and the solver {solver}"
            );
        }
        slower += u64::from(took > solver_took);
        ratios.push(solver_took.as_secs_f64() / took.as_secs_f64());
    }
    ratios.sort_by(f64::total_cmp);
    println!(
        "{boxes} contested boxes: {proven} proven, the slowest {worst:.2?}, up to {branches} branches; {slower} slower than the solver, which takes {:.1} times as long at the least, {:.0} times in the middle; most memory so far: {} MB",
        ratios[0],
        ratios[ratios.len() / 2],
        most_memory_mb(),
    );
}

/// A box in which up to seventeen checks want the pieces of one drawer or two, of four to 25 sizes.
fn crowded(seed: u64) -> (Vec<Group>, Vec<Vec<Stock>>) {
    let mut numbers = Numbers(seed * 77 + 5);
    let drawers: Vec<Vec<Stock>> = (0..=numbers.next(2))
        .map(|_| {
            let sizes = 4 + numbers.next(22);
            let line = |i: i64, numbers: &mut Numbers| Stock {
                thickness_nm: Length::from_nm(300_000 + i * 25_000 + numbers.next(9) * 1_000),
                grade: Grade::Marked,
                u_nm: 0.0,
                quantity: 1 + u32::try_from(numbers.next(2)).unwrap_or(0),
                source: Availability::OnHand,
            };
            (0..sizes).map(|i| line(i, &mut numbers)).collect()
        })
        .collect();
    let mut groups = checks(4 + numbers.next(14), 400_000, 1);
    for group in &mut groups {
        group.places[0].drawer =
            usize::try_from(numbers.next(i64::try_from(drawers.len()).unwrap_or(1))).unwrap_or(0);
        group.places[0].most_pieces = 1 + u32::try_from(numbers.next(4)).unwrap_or(0);
        let check = &mut group.checks[0];
        let (low, wide) = (40 + numbers.next(20), 15 + numbers.next(40));
        let nm = |micro: i64| Length::from_nm(micro * 1_000);
        check.window =
            Window::new(Some(nm(low)), Some(nm(low + wide))).expect("limits are in order");
        let middle = nm(low + wide / 2).as_f64();
        check.aim = TargetRange {
            from_nm: middle,
            to_nm: middle,
        };
        check.clearance_nm = nm(600 + numbers.next(700)).as_f64();
        (check.u_nm, check.dof) = (0.0, None);
    }
    (groups, drawers)
}

/// Crowded boxes, by ours alone: how many are proven while a person waits.
fn crowded_boxes(boxes: u64) {
    let mut proven = 0;
    let mut times = Vec::new();
    for seed in 0..boxes {
        let (groups, drawers) = crowded(seed);
        let start = Instant::now();
        let found =
            allocate(&groups, &drawers, |_| start.elapsed() < WAIT).expect("the request is sound");
        times.push(start.elapsed());
        proven += u64::from(found.proven);
    }
    times.sort_unstable();
    println!(
        "{boxes} crowded boxes: {proven} proven in {WAIT:?}, the median {:.2?}, 99 % in {:.2?}, the slowest {:.2?}",
        times[times.len() / 2],
        times[times.len() * 99 / 100],
        times[times.len() - 1],
    );
}

/// Whole benches, before the solver has taken any memory.
fn whole_benches() {
    for marked in [true, false] {
        // The last has 160 pieces for 100 checks that take two at least: most cannot be served.
        for (count, pieces, of_each) in [(100, 3, 4), (60, 2, 1), (100, 1, 1), (100, 3, 1)] {
            let stock = drawer(120, marked, of_each);
            let thickest = stock.last().map_or(0, |s| s.thickness_nm.nm());
            let groups = checks(count, thickest, pieces);
            let (found, took) = ours(&groups, &stock);
            println!(
                "bench of {count} checks, 120 sizes, {of_each} or more of each, {pieces} pieces, {}: {} in, {:.1} µm off, of at most {} and {:.1}, {} in {took:.2?}, {} branches",
                if marked { "marked" } else { "by mic" },
                found.tally.inside,
                found.tally.distance_nm / 1_000.0,
                found.bound.inside,
                found.bound.distance_nm / 1_000.0,
                if found.proven { "proven" } else { "stopped" },
                found.looked_at,
            );
        }
    }
    println!("most memory so far: {} MB", most_memory_mb());
}

/// The most memory this process has held, in megabytes; as Linux has it.
fn most_memory_mb() -> u64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    let line = status.lines().find_map(|l| l.strip_prefix("VmHWM:"));
    let kilobytes = line.and_then(|l| l.trim().trim_end_matches(" kB").parse::<u64>().ok());
    kilobytes.expect("the kernel says how much memory a process has held") / 1_000
}

fn bench(c: &mut Criterion) {
    contested_boxes(CONTESTED);
    crowded_boxes(2 * CONTESTED);
    whole_benches();
    side_by_side();
    for marked in [true, false] {
        let stock = drawer(120, marked, 1);
        let thickest = stock.last().map_or(0, |s| s.thickness_nm.nm());
        let groups = checks(8, thickest, 3);
        let name = if marked { "marked" } else { "micrometered" };
        c.bench_function(
            &format!("box of 8 checks, 120 sizes, 3 pieces, {name}"),
            |b| {
                b.iter(|| ours(&groups, &stock));
            },
        );
    }
}

criterion_group! {
    name = benches;
    config = Criterion::default().sample_size(20).measurement_time(Duration::from_secs(4));
    targets = bench
}
criterion_main!(benches);
