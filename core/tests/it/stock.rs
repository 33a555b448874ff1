//! What is done with the pieces of a drawer: what lies there and what is on order, before and after.

use anvil_arithmetic::units::length::{Length, Unit};
use anvil_rules::shop::drawers::{DrawerAct, StockCounts, may_count, thickness};
use proptest::prelude::*;

use crate::common::case;

const ACTS: [DrawerAct; 6] = [
    DrawerAct::Take,
    DrawerAct::Return,
    DrawerAct::Scrap,
    DrawerAct::Order,
    DrawerAct::CutOrder,
    DrawerAct::Come,
];

fn counts(on_hand: i32, reserved: i32, on_order: i32, discontinued: bool) -> StockCounts {
    StockCounts {
        on_hand,
        reserved,
        on_order,
        discontinued,
    }
}

#[test]
fn each_act_changes_what_it_says() {
    let piece = Length::from_nm(1_050_000);
    let drawer = counts(5, 2, 3, false);
    for (act, count, after) in [
        (DrawerAct::Take, 3, Ok((2, 3))),
        (DrawerAct::Take, 4, Err("not-free")),
        (DrawerAct::Scrap, 3, Ok((2, 3))),
        (DrawerAct::Scrap, 4, Err("not-free")),
        (DrawerAct::Return, 1, Ok((6, 3))),
        (DrawerAct::Order, 2, Ok((5, 5))),
        (DrawerAct::CutOrder, 3, Ok((5, 0))),
        (DrawerAct::CutOrder, 4, Err("not-on-order")),
        (DrawerAct::Come, 3, Ok((8, 0))),
        (DrawerAct::Come, 4, Err("not-on-order")),
    ] {
        let found = drawer.changed_by(act.by(count), piece);
        match after {
            Ok(after) => assert_eq!(found.unwrap(), after, "{act:?} {count}"),
            Err(why) => assert_eq!(case(found), why, "{act:?} {count}"),
        }
    }
    // What is no longer made is not ordered; what is on order already may still come.
    let last = counts(0, 0, 2, true);
    assert_eq!(
        case(last.changed_by(DrawerAct::Order.by(1), piece)),
        "discontinued"
    );
    assert_eq!(
        last.changed_by(DrawerAct::Come.by(2), piece).unwrap(),
        (2, 0)
    );
}

#[test]
fn a_count_never_says_fewer_than_are_set_aside() {
    let piece = Length::from_nm(1_050_000);
    let drawer = counts(5, 2, 0, false);
    assert_eq!(case(drawer.may_be_counted(2, piece)), "yes");
    assert_eq!(case(drawer.may_be_counted(1, piece)), "reserved");
    for (count, said) in [
        (0, "yes"),
        (100_000, "yes"),
        (-1, "on_hand"),
        (100_001, "on_hand"),
    ] {
        assert_eq!(case(may_count(count)), said, "{count}");
    }
}

#[test]
fn a_pieces_thickness_is_more_than_nothing_and_less_than_a_hand() {
    for (typed, unit, said) in [
        ("1.05", Unit::Mm, Ok(1_050_000)),
        ("41 thou", Unit::Mm, Ok(1_041_400)),
        ("1/32\"", Unit::Thou, Ok(793_750)),
        ("0", Unit::Mm, Err("size")),
        ("-1", Unit::Mm, Err("size")),
        ("1.05", Unit::Inch, Ok(26_670_000)),
        ("105", Unit::Mm, Err("size")),
        ("thick", Unit::Mm, Err("size")),
    ] {
        let found = thickness("size", typed, unit);
        match said {
            Ok(nm) => assert_eq!(found.unwrap(), Length::from_nm(nm), "{typed}"),
            Err(field) => assert_eq!(case(found), field, "{typed}"),
        }
    }
}

proptest! {
    /// Whatever is done, nothing set aside is taken, nothing is owed, and no piece appears or is lost but by what the
    /// act says: what is ordered comes or is cut, what comes is what was ordered.
    #[test]
    fn no_piece_appears_or_is_lost(
        start in (0..40_i32, 0..40_i32, 0..40_i32, any::<bool>()),
        acts in prop::collection::vec((0..6_usize, 1..30_i32), 0..20),
    ) {
        let (on_hand, aside, on_order, discontinued) = start;
        let reserved = aside.min(on_hand);
        let mut now = counts(on_hand, reserved, on_order, discontinued);
        let (mut into_the_drawer, mut into_the_order) = (0, 0);
        for (act, count) in acts {
            let by = ACTS[act].by(count);
            if let Ok((on_hand, on_order)) = now.changed_by(by, Length::from_nm(1)) {
                into_the_drawer += by.0;
                into_the_order += by.1;
                now = counts(on_hand, reserved, on_order, discontinued);
            }
            prop_assert!(now.on_hand >= now.reserved && now.on_order >= 0);
            prop_assert_eq!(now.on_hand, on_hand + into_the_drawer);
            prop_assert_eq!(now.on_order, on_order + into_the_order);
        }
    }

    /// An act and its contrary leave the drawer as it was.
    #[test]
    fn a_contrary_undoes_it(count in 1..1_000_i32) {
        for (act, contrary) in [(DrawerAct::Take, DrawerAct::Return), (DrawerAct::Order, DrawerAct::CutOrder)] {
            let (a, b) = (act.by(count), contrary.by(count));
            prop_assert_eq!((a.0 + b.0, a.1 + b.1), (0, 0));
        }
    }
}

mod families {
    use anvil_arithmetic::stock::drawer::{Grade, range};
    use anvil_arithmetic::units::length::Length;
    use anvil_rules::sheet::{Family, PartKind};
    use anvil_rules::shop::drawers::{Drawer, DrawerSize, FiguresFrom};
    use anvil_rules::shop::family_figures::Tolerances;
    use chrono::DateTime;

    fn family(tolerance: &str, sizes: &[(&str, bool)]) -> Family {
        let sizes: Vec<_> = sizes
            .iter()
            .map(|(thickness, gone)| serde_json::json!({"thickness": thickness, "discontinued": gone}))
            .collect();
        let family = serde_json::json!({"key": "f", "name": "Shims", "kind": "shim", "tolerance": tolerance,
            "sizes": sizes});
        serde_json::from_value(family).unwrap()
    }

    fn drawer(tolerance_nm: i64, sizes: &[(i64, Grade, bool)]) -> Drawer {
        let size = |(thickness_nm, grade, discontinued): &(i64, Grade, bool)| DrawerSize {
            ordered_at: None,
            thickness_nm: *thickness_nm,
            grade: *grade,
            nominal_nm: None,
            u_nm: None,
            on_hand: 1,
            reserved: 0,
            on_order: 0,
            held_by: Vec::new(),
            awaited: 0,
            place: String::new(),
            discontinued: *discontinued,
            version: 1,
        };
        Drawer {
            key: "f".into(),
            name: "Shims".into(),
            kind: PartKind::Shim,
            tolerance_nm,
            figures: FiguresFrom {
                revision: 1,
                sheet_key: None,
                sheet_revision: None,
                who: None,
                at: DateTime::UNIX_EPOCH,
            },
            sizes: sizes.iter().map(size).collect(),
            range: range(&[], &[]),
        }
    }

    #[test]
    fn a_conflict_is_what_both_speak_of_and_say_otherwise() {
        use Grade::{Marked, Miked};
        let (one, two) = (1_000_000, 2_000_000);
        let of_sheet = family(
            "0.01 mm",
            &[("1 mm", true), ("2 mm", false), ("3 mm", true)],
        );
        // A size of the shop's own, one that only the sheet has, and a measured piece of a size that is gone: no conflict.
        let agreed = drawer(
            10_000,
            &[
                (one, Marked, true),
                (one, Miked, false),
                (two, Marked, false),
                (one / 2, Marked, true),
            ],
        );
        assert_eq!(agreed.conflict(&of_sheet), None);
        let turned = drawer(4_000, &[(one, Marked, false), (two, Marked, true)]);
        let found = turned.conflict(&of_sheet).unwrap();
        assert_eq!(
            (found.gone, found.made, found.kind),
            (vec![Length::from_nm(one)], vec![Length::from_nm(two)], None)
        );
        let nm = Length::from_nm;
        assert_eq!(
            found.tolerance,
            Some(Tolerances {
                sheet_nm: nm(10_000),
                drawer_nm: nm(4_000)
            })
        );
        let mut washers = agreed;
        washers.kind = PartKind::Washer;
        assert_eq!(
            washers.conflict(&of_sheet).unwrap().kind.unwrap().sheet,
            PartKind::Shim
        );
    }
}
