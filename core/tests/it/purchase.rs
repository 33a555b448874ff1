//! What to order: against exhaustive search.

use anvil_arithmetic::choose::purchase::{
    Purchase, PurchaseError, PurchaseRequest, Span, may_take, purchase, range_of,
};
use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Window;
use anvil_references::purchase::{by_trying, serves};
use proptest::prelude::*;

use crate::budget::cases;

fn micro(nm: i64) -> Length {
    Length::from_nm(nm * 1_000)
}

fn window(low: i64, high: i64) -> Window {
    Window::new(Some(micro(low)), Some(micro(high))).unwrap()
}

proptest! {
    #![proptest_config(cases(300))]

    #[test]
    fn no_smaller_set_would_surely_do(
        made in prop::collection::btree_set(100_i64..200, 1..8),
        hand in prop::collection::vec((100_i64..200, 0_u32..3), 0..4),
        from in 120_i64..220, width in 0_i64..60, low in 5_i64..30, wide in 4_i64..40,
        tolerance in 0_i64..2, opens in any::<bool>(), most in 1_u32..3,
    ) {
        let made: Vec<Length> = made.into_iter().map(micro).collect();
        let on_hand: Vec<_> = hand.into_iter().map(|(s, n)| (micro(s), n)).collect();
        let request = PurchaseRequest {
            from_nm: (from * 1_000) as f64, to_nm: ((from + width) * 1_000) as f64,
            effect: if opens { Effect::Opens } else { Effect::Closes },
            window: window(low, low + wide), tolerance: micro(tolerance), most_pieces: most,
            on_hand: &on_hand, made: &made,
        };
        let found = purchase(&request).unwrap();
        match by_trying(&request) {
            Some(right) if most == 1 || right <= 3 => {
                prop_assert_eq!(found.sizes.len(), right, "{:?}", found);
                prop_assert!(found.uncovered.is_empty() && serves(&request, &found.sizes));
            }
            Some(_) => {} // stacks of more than three sizes are not tried
            None => prop_assert!(!found.uncovered.is_empty(), "{:?}", found),
        }
    }
}

fn asked<'a>(on_hand: &'a [(Length, u32)], made: &'a [Length]) -> PurchaseRequest<'a> {
    PurchaseRequest {
        from_nm: 1_300_000.0,
        to_nm: 1_330_000.0,
        effect: Effect::Closes,
        window: window(50, 150),
        tolerance: Length::ZERO,
        most_pieces: 1,
        on_hand,
        made,
    }
}

#[test]
fn of_sets_so_small_the_one_with_the_most_room() {
    let made: Vec<Length> = (100..140).map(|i| micro(i * 10)).collect();
    let found = purchase(&asked(&[], &made)).unwrap();
    // Left free to choose, the middle: 1.215 would leave 0.085 and 0.115; sizes are in steps of 0.01.
    assert!(matches!(found.sizes[..], [one] if one == micro(1_210) || one == micro(1_220)));
    assert!((found.room_nm - 30_000.0).abs() <= 1.0, "{found:?}");
}

#[test]
fn what_is_on_hand_costs_nothing() {
    let made = [micro(1_150), micro(1_200), micro(1_250)];
    let all_on_hand = purchase(&asked(&[(micro(1_200), 1)], &made)).unwrap();
    assert_eq!(all_on_hand.sizes, []);
    let taken = purchase(&asked(&[(micro(1_200), 0)], &made)).unwrap();
    assert_eq!(taken.sizes, [micro(1_200)]);
}

#[test]
fn what_no_size_covers_is_named() {
    let found = purchase(&asked(&[], &[micro(1_160)])).unwrap();
    let open = Span {
        from_nm: 1_310_000.0,
        to_nm: 1_330_000.0,
    };
    assert_eq!(
        found,
        Purchase {
            sizes: vec![],
            room_nm: 0.0,
            uncovered: vec![open]
        }
    );
    let none = purchase(&asked(&[], &[])).unwrap();
    assert_eq!(
        none.uncovered,
        [Span {
            from_nm: 1_300_000.0,
            to_nm: 1_330_000.0
        }]
    );
    let one = [micro(1_200)];
    let narrow = PurchaseRequest {
        tolerance: micro(60),
        ..asked(&[], &one)
    };
    assert!(
        !purchase(&narrow).unwrap().uncovered.is_empty(),
        "a tolerance wider than the window"
    );
    assert_eq!(
        purchase(&PurchaseRequest {
            to_nm: f64::NAN,
            ..asked(&[], &[])
        }),
        Err(PurchaseError::BadRange)
    );
    assert_eq!(
        purchase(&PurchaseRequest {
            most_pieces: 9,
            ..asked(&[], &[])
        }),
        Err(PurchaseError::BadPieces)
    );
}

/// Thickness steps of DIN 988 shims from memory: 0.1, 0.15, 0.2, 0.3, 0.5, 1.0, 1.1 … 2.0 mm, in
/// stacks of two, as a real set of sizes. A float of 0.05 to 0.15 over anything from 1.30 to 1.60 mm.
#[test]
fn a_standard_series_in_pairs_needs_few_sizes() {
    let series: Vec<Length> = [100, 150, 200, 300, 500]
        .into_iter()
        .chain((10..=20).map(|i| i * 100))
        .map(micro)
        .collect();
    let on_hand = [(micro(100), 1), (micro(1_200), 1)];
    let request = PurchaseRequest {
        from_nm: 1_300_000.0,
        to_nm: 1_600_000.0,
        most_pieces: 2,
        ..asked(&on_hand, &series)
    };
    let found = purchase(&request).unwrap();
    // On hand: 0.1, 1.2 and 1.3 together serve 1.25 to 1.45; one more size with them does the rest.
    assert_eq!(by_trying(&request), Some(1));
    assert_eq!(found.sizes.len(), 1, "{found:?}");
    assert!(serves(&request, &found.sizes));
}

#[test]
fn the_range_follows_from_what_was_measured() {
    let span = range_of(300_000.0, 10_000.0, micro(1_200), Effect::Closes);
    assert_eq!((span.from_nm, span.to_nm), (1_490_000.0, 1_510_000.0));
    let span = range_of(300_000.0, 10_000.0, micro(1_200), Effect::Opens);
    assert_eq!((span.from_nm, span.to_nm), (890_000.0, 910_000.0));
}

proptest! {
    #[test]
    fn what_may_be_taken_is_what_some_outcome_would_take(
        from in 80_i64..120, width in 0_i64..20, low in -8_i64..20, wide in 0_i64..12, size in 60_i64..140,
        opens in any::<bool>(),
    ) {
        // On a grid of whole micrometres, ends included, every outcome can be tried.
        let um = |micro: i64| Length::from_nm(micro * 1_000);
        let window = Window::new(Some(um(low)), Some(um(low + wide))).unwrap();
        let effect = if opens { Effect::Opens } else { Effect::Closes };
        let range = Span { from_nm: um(from).as_f64(), to_nm: um(from + width).as_f64() };
        let lands = |x: i64| window.holds(effect.k() * um(x - size).as_f64());
        let some = (from..=from + width).any(lands);
        prop_assert_eq!(may_take(range, effect, window, um(size)), some);
    }
}

#[test]
fn two_families_of_one_name_are_two_lines() {
    use anvil_rules::job::check::coupling::OpenChecks;
    use anvil_rules::job::check::purchase_needs::needs;
    use anvil_rules::shop::drawers::{AwaitedSize, HeldBy, say_what_to_order};

    let open = OpenChecks::of(Vec::new(), &[]).unwrap();
    let together = open.share(|_| true).unwrap();
    let waits = |family: &str, job_no, awaited| {
        let mut held_by = vec![HeldBy {
            job_no,
            check_key: "input-float".into(),
            check_name: "Input float".into(),
            reserved: 0,
            awaited,
            to_order: 0,
        }];
        say_what_to_order(&mut held_by, 1);
        AwaitedSize {
            family_key: family.into(),
            family_name: "Input shims".into(),
            thickness_nm: 1_200_000,
            on_order: 1,
            ordered_at: None,
            held_by,
        }
    };
    let awaited = [
        waits("a-shim", 1, 3),
        waits("b-shim", 2, 2),
        waits("c-shim", 3, 1),
    ];
    let found = needs(&open, &together, false, (&awaited, None)).unwrap();
    let lines: Vec<_> = found
        .lines
        .iter()
        .map(|l| (l.family_key.as_str(), l.count))
        .collect();
    // What is on order already is not asked for again.
    assert_eq!(lines, [("a-shim", 2), ("b-shim", 1)]);
    let of_one = needs(&open, &together, false, (&awaited, Some(2))).unwrap();
    assert_eq!(of_one.lines.len(), 1);
    assert_eq!(of_one.lines[0].wanted_for, ["job 2, input float"]);
}

#[test]
fn what_is_on_order_comes_to_the_oldest_job_first() {
    use anvil_rules::shop::drawers::{HeldBy, say_what_to_order};

    // How many the checks still wait for, the oldest job first; how many are on order; what is left to order.
    let cases: [(&[i32], i32, &[i32]); 6] = [
        (&[1], 0, &[1]),
        (&[1], 1, &[0]),
        (&[2, 1], 2, &[0, 1]),
        (&[2, 1], 1, &[1, 1]),
        (&[0, 3, 1], 3, &[0, 0, 1]),
        (&[1, 1], 9, &[0, 0]),
    ];
    for (awaited, on_order, to_order) in cases {
        let held = |(job_no, awaited): (i32, &i32)| HeldBy {
            job_no,
            check_key: "float".into(),
            check_name: "Float".into(),
            reserved: 0,
            awaited: *awaited,
            to_order: 0,
        };
        let mut held_by: Vec<HeldBy> = (1..).zip(awaited).map(held).collect();
        say_what_to_order(&mut held_by, on_order);
        let said: Vec<i32> = held_by.iter().map(|h| h.to_order).collect();
        assert_eq!(said, to_order, "{awaited:?} with {on_order} on order");
    }
}
