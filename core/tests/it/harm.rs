//! Missing on one side that is worse than on the other: against every stack there is, and against the calculus.

use anvil_arithmetic::choose::harm::{Harm, Side};
use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::choose::{Choice, Pieces, Request, choose, predict};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use proptest::prelude::*;

use crate::budget::cases;

fn line(nm: i64, u_nm: f64, quantity: u32) -> Stock {
    Stock {
        thickness_nm: Length::from_nm(nm),
        grade: Grade::Marked,
        u_nm,
        quantity,
        source: Availability::OnHand,
    }
}

fn request(
    clearance_nm: f64,
    u_nm: f64,
    dof: Option<f64>,
    harm: Harm,
    stock: &[Stock],
) -> Request<'_> {
    Request {
        clearance_nm,
        u_nm,
        dof,
        shape: None,
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        effect: Effect::Closes,
        window: Window::new(
            Some(Length::from_nm(60_000)),
            Some(Length::from_nm(140_000)),
        )
        .unwrap(),
        aim: TargetRange {
            from_nm: 100_000.0,
            to_nm: 100_000.0,
        },
        required_probability: 0.95,
        harm: Some(harm),
        least_pieces: 1,
        most_pieces: 2,
        best: 3,
        stock,
    }
}

/// Every stack of up to two pieces, the least harm first.
fn every(request: &Request<'_>) -> Vec<Choice> {
    let mut found = Vec::new();
    let piece = |s: &Stock, count| Pieces {
        thickness_nm: s.thickness_nm,
        grade: s.grade,
        count,
        source: s.source,
    };
    for (a, first) in request.stock.iter().enumerate() {
        found.extend(predict(request, &[piece(first, 1)]));
        found.extend(predict(request, &[piece(first, 2)]));
        for second in &request.stock[a + 1..] {
            found.extend(predict(request, &[piece(first, 1), piece(second, 1)]));
        }
    }
    found.sort_by(|a, b| a.harm.unwrap().total_cmp(&b.harm.unwrap()));
    found
}

proptest! {
    #![proptest_config(cases(500))]

    #[test]
    fn no_stack_does_less_harm(
        sizes in prop::collection::btree_map(300..900_i64, (500.0..6_000.0_f64, 1..3_u32), 1..9),
        clearance in 400..1_900_i64, u in 500.0..30_000.0_f64,
        dof in prop::option::of(1.5..30.0_f64), times in 1.1..100.0_f64, tight: bool,
    ) {
        let stock: Vec<Stock> = sizes.into_iter().map(|(um, (u, n))| line(um * 1_000, u, n)).collect();
        let harm = Harm { worse: if tight { Side::Tight } else { Side::Loose }, times };
        let request = request((clearance * 1_000) as f64, u, dof, harm, &stock);
        let found = choose(&request).unwrap().ranked;
        let mut right = every(&request);
        // Of one total the list shows one.
        let mut totals = Vec::new();
        right.retain(|c| { let new = !totals.contains(&c.total_nm); totals.push(c.total_nm); new });
        prop_assert_eq!(found.len(), right.len().min(3));
        for (ours, right) in found.iter().zip(&right) {
            prop_assert!((ours.harm.unwrap() - right.harm.unwrap()).abs() < 1e-9,
                "{:?} and {:?}", ours.harm, right.harm);
        }
    }
}

/// Where `w φ((c − L)/u) = φ((U − c)/u)` the harm is least: `c = (L + U)/2 + u² ln w / (U − L)`.
#[test]
fn the_best_leans_away_from_the_worse_side() {
    let stock: Vec<Stock> = (0..400).map(|i| line(900_000 + i * 100, 0.0, 1)).collect();
    let at = |worse, times| {
        let harm = Harm { worse, times };
        let mut request = request(1_020_000.0, 14_000.0, None, harm, &stock);
        request.most_pieces = 1;
        choose(&request).unwrap().ranked[0].predicted_nm
    };
    let lean = |times: f64| 14_000_f64.powi(2) * times.ln() / 80_000.0;
    for times in [2.0, 7.0, 40.0] {
        assert!((at(Side::Tight, times) - 100_000.0 - lean(times)).abs() < 100.0);
        assert!((at(Side::Loose, times) - 100_000.0 + lean(times)).abs() < 100.0);
    }
}

#[test]
fn harm_of_nought_or_of_a_thousand_is_refused() {
    let stock = [line(900_000, 0.0, 1)];
    for times in [0.0, 1.0, 1_000.0, f64::NAN] {
        let harm = Harm {
            worse: Side::Tight,
            times,
        };
        let why = choose(&request(1_000_000.0, 1_000.0, None, harm, &stock)).unwrap_err();
        assert_eq!(why.field(), "harm");
    }
    let harm = Harm {
        worse: Side::Loose,
        times: 3.0,
    };
    let mut open = request(1_000_000.0, 1_000.0, None, harm, &stock);
    open.window = Window::new(Some(Length::from_nm(60_000)), None).unwrap();
    assert_eq!(choose(&open).unwrap_err().field(), "harm");
}
