//! Choosing the ten best of all stacks up to four pieces from a drawer of 200 sizes, beside a
//! general mixed-integer solver that finds only the single best of the same stacks.

use std::time::{Duration, Instant};

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::choose::{Request, choose};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::uncertainty::distribution::{Distribution, Shape};
use anvil_arithmetic::uncertainty::estimate::{Component, Source, combined_uncertainty};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use criterion::{Criterion, criterion_group, criterion_main};
use microlp::{ComparisonOp, OptimizationDirection, Problem};

const SIZES: i64 = 200;
const PIECES: u32 = 4;

/// Sizes as a micrometer gives them: about 10 µm apart, none on the grid.
fn micrometered() -> Vec<Stock> {
    let line = |i: i64| Stock {
        thickness_nm: Length::from_nm(500_000 + i * 10_000 + (i * 7_919) % 3_000),
        grade: Grade::Marked,
        u_nm: 800.0,
        quantity: 3,
        source: Availability::OnHand,
    };
    (0..SIZES).map(line).collect()
}

/// Sizes as marked, on a grid: many stacks share a total.
fn marked() -> Vec<Stock> {
    let line = |i: i64| Stock {
        thickness_nm: Length::from_nm(500_000 + i * 10_000),
        grade: Grade::Marked,
        u_nm: 2_900.0,
        quantity: 3,
        source: Availability::OnHand,
    };
    (0..SIZES).map(line).collect()
}

fn request(stock: &[Stock], width_nm: i64) -> Request<'_> {
    Request {
        shape: None,
        clearance_nm: 5_432_100.0,
        u_nm: 2_000.0,
        dof: Some(2.0),
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        effect: Effect::Closes,
        window: Window::new(
            Some(Length::from_nm(100_000)),
            Some(Length::from_nm(100_000 + width_nm)),
        )
        .expect("limits are in order"),
        aim: TargetRange {
            from_nm: 130_000.0,
            to_nm: 130_000.0,
        },
        required_probability: 0.95,
        harm: None,
        least_pieces: 1,
        most_pieces: PIECES,
        best: 10,
        stock,
    }
}

/// The same, known as readings of few degrees of freedom folded with a gauge's step and error.
fn folded(stock: &[Stock], width_nm: i64) -> Request<'_> {
    let known = |from, u_nm, dof| Component { from, u_nm, dof };
    let parts = [
        known(Source::Scatter, 1_200.0, Some(2.0)),
        known(Source::Resolution, 1_000.0, None),
        known(Source::PermissibleError, 1_249.0, None),
    ];
    let (u_nm, dof) = combined_uncertainty(&parts);
    Request {
        shape: Shape::new(Distribution::of(&parts)),
        u_nm,
        dof,
        ..request(stock, width_nm)
    }
}

/// How long the general solver may take over one drawer.
const PATIENCE: Duration = Duration::from_secs(20);

/// Minimise `|c − Σ n_i s_i − target|` over whole `0 ≤ n_i ≤ quantity`, `1 ≤ Σ n_i ≤ 4`; in µm, so
/// that the solver's tolerances fit the figures. The distance found in µm, and the time it took.
fn by_solver(request: &Request<'_>) -> (Option<f64>, Duration) {
    let mut problem = Problem::new(OptimizationDirection::Minimize);
    problem.set_time_limit(PATIENCE);
    let off = problem.add_var(1.0, (0.0, f64::INFINITY));
    let most = |quantity: u32| i32::try_from(quantity).unwrap_or(i32::MAX);
    let counts: Vec<_> = request
        .stock
        .iter()
        .map(|s| problem.add_integer_var(0.0, (0, most(s.quantity))))
        .collect();
    let micro = |nm: f64| nm / 1_000.0;
    let wanted = micro(request.clearance_nm - request.aim.from_nm);
    let sum = |sign: f64| -> Vec<_> {
        let terms = counts.iter().zip(request.stock);
        terms
            .map(|(v, s)| (*v, sign * micro(s.thickness_nm.as_f64())))
            .chain([(off, 1.0)])
            .collect()
    };
    problem.add_constraint(sum(1.0), ComparisonOp::Ge, wanted);
    problem.add_constraint(sum(-1.0), ComparisonOp::Ge, -wanted);
    let pieces: Vec<_> = counts.iter().map(|v| (*v, 1.0)).collect();
    problem.add_constraint(pieces.as_slice(), ComparisonOp::Ge, 1.0);
    problem.add_constraint(pieces.as_slice(), ComparisonOp::Le, f64::from(PIECES));
    let start = Instant::now();
    let outcome = problem.solve();
    let took = start.elapsed();
    let found = outcome.ok().and_then(|o| o.into_solution().ok());
    (found.map(|s| s.objective()), took)
}

fn ours(request: &Request<'_>) -> (f64, Duration) {
    let start = Instant::now();
    let found = choose(request).expect("the request is sound");
    (found.ranked[0].off_target_nm / 1_000.0, start.elapsed())
}

/// The same drawers by both, in one run: ten best by ours, the one best by the solver.
fn side_by_side() {
    println!(
        "drawer                          ours, µm off      solver, µm off    ours     solver   ratio"
    );
    for (name, stock) in [("marked", marked()), ("micrometered", micrometered())] {
        for sizes in [25, 50, 100, 200] {
            let request = request(&stock[..sizes], 60_000);
            let request = Request {
                clearance_nm: 130_000.0 + 3.0 * stock[sizes / 2].thickness_nm.as_f64() + 2_345.0,
                ..request
            };
            let _warm = ours(&request);
            let (our_off, our_time) = ours(&request);
            let (solver_off, solver_time) = by_solver(&request);
            let stopped = solver_time >= PATIENCE;
            if let Some(off) = solver_off.filter(|_| !stopped) {
                assert!(
                    our_off <= off + 1e-3,
                    "the solver found better: {our_off} and {off} µm"
                );
                assert!(
                    off <= our_off + 1e-3,
                    "the solver proved worse: {our_off} and {off} µm"
                );
            }
            println!(
                "{name:>13}, {sizes:>3} sizes: {our_off:>16.3} {:>20} {our_time:>12.2?} {solver_time:>10.2?} {}{:.0}",
                solver_off.map_or("none".into(), |o| format!("{o:.3}")),
                if stopped { "stopped, over " } else { "" },
                solver_time.as_secs_f64() / our_time.as_secs_f64()
            );
        }
    }
}

/// Stacks that cannot reach the window, or one of a nanometre: by the million, and none better than the first few.
fn hopeless(c: &mut Criterion) {
    let stock = micrometered();
    let mut group = c.benchmark_group("ten best where nothing will do");
    group.sample_size(10);
    let narrow = Request {
        most_pieces: 6,
        ..request(&stock[..150], 1)
    };
    group.bench_function("150 sizes, six pieces, a window of a nanometre", |b| {
        b.iter(|| choose(&narrow));
    });
    let far = Request {
        clearance_nm: 40_000_000.0,
        most_pieces: 8,
        ..request(&stock[..60], 60_000)
    };
    group.bench_function("60 sizes, eight pieces, out of reach", |b| {
        b.iter(|| choose(&far));
    });
    group.finish();
}

fn bench(c: &mut Criterion) {
    let (micrometered, marked) = (micrometered(), marked());
    let mut group = c.benchmark_group("ten best of stacks up to four from 200 sizes");
    group.sample_size(20);
    for (name, stock, width) in [
        ("micrometered sizes", &micrometered, 60_000),
        ("marked sizes", &marked, 60_000),
        (
            "micrometered sizes, window too narrow",
            &micrometered,
            6_000,
        ),
        ("marked sizes, window too narrow", &marked, 6_000),
    ] {
        group.bench_function(name, |b| b.iter(|| choose(&request(stock, width))));
        let folded = folded(stock, width);
        group.bench_function(format!("{name}, folded"), |b| b.iter(|| choose(&folded)));
    }
    group.finish();
    hopeless(c);
    side_by_side();
}

criterion_group!(benches, bench);
criterion_main!(benches);
