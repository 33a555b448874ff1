//! The ways out: swaps against trying every one, and windows narrower than the drawer's steps.

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::choose::{Holder, Request, SizeCount, fallbacks, swaps};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::conformance_probability;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use proptest::prelude::*;

fn um(micro: i64) -> Length {
    Length::from_nm(micro * 1_000)
}

fn stock(sizes: &[i64]) -> Vec<Stock> {
    let line = |size: &i64| Stock {
        thickness_nm: um(*size),
        grade: Grade::Marked,
        u_nm: 1_000.0,
        quantity: 1,
        source: Availability::OnHand,
    };
    sizes.iter().map(line).collect()
}

/// A check wanting a single piece of this size, in a window so wide each side of its target.
fn request(wanted: i64, half: i64, stock: &[Stock]) -> Request<'_> {
    Request {
        shape: None,
        clearance_nm: um(wanted + 100).as_f64(),
        u_nm: 3_000.0,
        dof: None,
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        effect: Effect::Closes,
        window: Window::new(Some(um(100 - half)), Some(um(100 + half))).unwrap(),
        aim: TargetRange {
            from_nm: 100_000.0,
            to_nm: 100_000.0,
        },
        required_probability: 0.95,
        harm: None,
        least_pieces: 1,
        most_pieces: 1,
        best: 3,
        stock,
    }
}

/// Whether a single piece reaches the required probability, and whether it lands in the window.
fn gives(request: &Request<'_>, size: i64) -> (bool, bool) {
    let predicted = request.clearance_nm - um(size).as_f64();
    let u = request.u_nm.hypot(1_000.0);
    (
        conformance_probability(predicted, u, None, request.window) >= request.required_probability,
        request.window.holds(predicted),
    )
}

proptest! {
    #[test]
    fn a_swap_is_offered_where_there_is_one(
        free in prop::collection::btree_set(20..60_i64, 0..4),
        held in prop::collection::vec(20..60_i64, 1..4),
        mine in 20..60_i64, others in prop::collection::vec(20..60_i64, 3), half in 2..12_i64,
    ) {
        // On a grid of 10 um.
        let ten = |sizes: &mut dyn Iterator<Item = i64>| sizes.map(|s| s * 10).collect::<Vec<_>>();
        let free: Vec<i64> = ten(&mut free.into_iter());
        let held: Vec<i64> = ten(&mut held.into_iter().filter(|h| !free.contains(&(h * 10))));
        let on_hand = stock(&free);
        let asked = request(mine * 10, half, &on_hand);
        prop_assume!(!free.iter().any(|f| gives(&asked, *f).0));
        let stocks: Vec<Vec<Stock>> = held.iter().map(|h| stock(&[&free[..], &[*h]].concat())).collect();
        let holders: Vec<Holder<'_>> = held.iter().zip(&stocks).zip(&others)
            .map(|((h, stock), wanted)| Holder {
                request: request(wanted * 10, half, stock),
                held: vec![SizeCount { thickness_nm: um(*h), grade: Grade::Marked, count: 1 }],
            })
            .collect();
        let found = swaps(&asked, &holders).unwrap();
        for (n, holder) in holders.iter().enumerate() {
            // Its piece does here, and something that stays free does there.
            let there = free.iter().any(|f| gives(&holder.request, *f).1);
            let possible = gives(&asked, held[n]).0 && there;
            let offered: Vec<_> = found.iter().filter(|s| s.holder == n).collect();
            prop_assert_eq!(offered.len(), usize::from(possible));
            for swap in offered {
                prop_assert_eq!(swap.mine.total_nm, um(held[n]));
                prop_assert!(swap.mine.reaches_floor && swap.theirs.total_nm != um(held[n]));
            }
        }
        let floors: Vec<bool> = found.iter().map(|s| s.theirs.reaches_floor).collect();
        prop_assert!(floors.is_sorted_by(|a, b| a >= b));
    }
}

#[test]
fn a_window_narrower_than_the_steps_is_said_so() {
    let coarse = stock(&[1_000, 1_050, 1_100]);
    let step = |half, stock: &[Stock], most_pieces| {
        let asked = Request {
            most_pieces,
            ..request(1_025, half, stock)
        };
        fallbacks(&asked, 1_000.0, &[]).unwrap().step_nm
    };
    assert_eq!(step(20, &coarse, 1), Some(um(50)));
    assert_eq!(step(30, &coarse, 1), None);
    // Stacked, they make finer steps; and one size has none.
    assert_eq!(step(20, &coarse, 2), None);
    assert_eq!(step(20, &stock(&[1_000]), 1), None);
}
