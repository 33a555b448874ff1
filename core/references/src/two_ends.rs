//! A shaft whose total of shims sets one check and whose split sets another, and a general mixed-integer solver to hold
//! what is chosen for it against.

use std::time::Duration;

use anvil_arithmetic::allocate::{Group, Moved, Place};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use microlp::{ComparisonOp, OptimizationDirection, Problem, Variable};

pub const MICRO: i64 = 1_000;

fn moved(clearance: f64, window: (i64, i64), effects: [f64; 2]) -> Moved {
    let (low, high) = (window.0 * MICRO, window.1 * MICRO);
    let middle = f64::midpoint(low as f64, high as f64);
    Moved {
        clearance_nm: clearance,
        u_nm: 1_500.0,
        dof: None,
        shape: None,
        window: Window::new(Some(Length::from_nm(low)), Some(Length::from_nm(high))).unwrap(),
        aim: TargetRange {
            from_nm: middle,
            to_nm: middle,
        },
        required_probability: 0.95,
        effects: effects.to_vec(),
        u_effects: 0.0,
        yields: false,
    }
}

fn place(drawer: usize, most_pieces: u32) -> Place {
    Place {
        drawer,
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        least_pieces: 1,
        most_pieces,
    }
}

pub fn line(nm: i64, quantity: u32) -> Stock {
    Stock {
        thickness_nm: Length::from_nm(nm),
        grade: Grade::Marked,
        u_nm: 700.0,
        quantity,
        source: Availability::OnHand,
    }
}

/// A bearing float by the total of both ends, and a backlash by their split.
pub fn axle(total: f64, split: f64, per_move: f64, most: u32, one_drawer: bool) -> Group {
    let mut mesh = moved(split, (80, 160), [-per_move / 2.0, per_move / 2.0]);
    mesh.yields = true;
    mesh.u_effects = 0.03;
    Group {
        places: vec![place(0, most), place(usize::from(!one_drawer), most)],
        checks: vec![moved(total, (20, 70), [1.0, 1.0]), mesh],
        pinned: None,
    }
}

/// Least total distance from both targets as whole counts of each size at each end, in µm; both windows are met.
pub fn by_solver(group: &Group, drawers: &[Vec<Stock>], patience: Duration) -> Option<f64> {
    let micro = |nm: f64| nm / 1_000.0;
    let mut problem = Problem::new(OptimizationDirection::Minimize);
    problem.set_time_limit(patience);
    let counts: Vec<Vec<(Variable, f64)>> = group
        .places
        .iter()
        .map(|p| {
            let lines = drawers[p.drawer].iter();
            let each = lines.map(|s| {
                let most = i32::try_from(s.quantity).unwrap();
                (
                    problem.add_integer_var(0.0, (0, most)),
                    micro(s.thickness_nm.as_f64()),
                )
            });
            each.collect()
        })
        .collect();
    for (of_place, place) in counts.iter().zip(&group.places) {
        let pieces: Vec<_> = of_place.iter().map(|(v, _)| (*v, 1.0)).collect();
        problem.add_constraint(pieces.as_slice(), ComparisonOp::Ge, 1.0);
        problem.add_constraint(
            pieces.as_slice(),
            ComparisonOp::Le,
            f64::from(place.most_pieces),
        );
    }
    for check in &group.checks {
        let half = check.window.width_nm().unwrap() / 2.0;
        let off = problem.add_var(1.0, (0.0, micro(half)));
        let wanted = micro(check.clearance_nm - check.aim.from_nm);
        let terms = |sign: f64| -> Vec<_> {
            let each = counts.iter().zip(&check.effects);
            each.flat_map(|(of_place, e)| of_place.iter().map(move |(v, t)| (*v, sign * e * t)))
                .chain([(off, 1.0)])
                .collect()
        };
        problem.add_constraint(terms(1.0), ComparisonOp::Ge, wanted);
        problem.add_constraint(terms(-1.0), ComparisonOp::Ge, -wanted);
    }
    Some(problem.solve().ok()?.into_solution().ok()?.objective())
}
