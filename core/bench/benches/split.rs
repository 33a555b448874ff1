//! The shims at both ends of a shaft, out of two drawers of 120 sizes and up to three pieces each side, beside a general
//! mixed-integer solver in the same run.

use std::time::{Duration, Instant};

use anvil_arithmetic::allocate::{Group, allocate};
use anvil_arithmetic::stock::drawer::Stock;
use anvil_references::two_ends::{MICRO, axle, by_solver, line};
use criterion::{Criterion, criterion_group, criterion_main};

/// How long the general solver may take over one shaft.
const PATIENCE: Duration = Duration::from_secs(20);

/// 120 sizes about 15 µm apart, as marked or as a micrometer gives them.
fn drawer(from_um: i64, marked: bool) -> Vec<Stock> {
    let off = |i: i64| if marked { 0 } else { (i * 7_919) % 4_000 };
    let size = |i: i64| line((from_um + i * 15) * MICRO + off(i), 3);
    (0..120).map(size).collect()
}

/// One that both windows can be met for, and one whose mesh is out of reach.
fn shafts() -> [(&'static str, Group); 2] {
    [
        ("both met", axle(4_137_000.0, 171_000.0, 0.69, 3, false)),
        (
            "mesh out of reach",
            axle(4_137_000.0, 9_171_000.0, 0.69, 3, false),
        ),
    ]
}

fn bench(c: &mut Criterion) {
    for marked in [true, false] {
        let drawers = [drawer(410, marked), drawer(460, marked)];
        let grade = if marked { "marked" } else { "by mic" };
        for (name, group) in shafts() {
            let run = || allocate(std::slice::from_ref(&group), &drawers, |_| true);
            let _warm = run();
            let start = Instant::now();
            let found = run().expect("the request is sound");
            let took = start.elapsed();
            print!(
                "{name}, {grade}: {} in, {:.3} µm off, {} in {took:.2?}",
                found.tally.inside,
                found.tally.distance_nm / 1_000.0,
                if found.proven { "proven" } else { "stopped" }
            );
            if found.tally.inside < 2 {
                println!();
                continue;
            }
            let start = Instant::now();
            let solver = by_solver(&group, &drawers, PATIENCE);
            let solver_took = start.elapsed();
            let ours = found.tally.distance_nm / 1_000.0;
            // Stopped by its time, it gives the best that it has.
            if let Some(solver) = solver {
                assert!(ours <= solver + 1e-3, "{ours} and the solver {solver}");
            }
            let ratio = solver_took.as_secs_f64() / took.as_secs_f64();
            println!(
                "; the solver {} in {solver_took:.2?}: {ratio:.0} times as long",
                solver.map_or("none".into(), |s| format!("{s:.3}"))
            );
        }
        let [(_, group), _] = shafts();
        c.bench_function(
            &format!("both ends of a shaft, 120 sizes each, {grade}"),
            |b| {
                b.iter(|| allocate(std::slice::from_ref(&group), &drawers, |_| true));
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
