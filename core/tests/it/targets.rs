//! A window and a target of a job's own: what is typed, and where it then aims.

use anvil_arithmetic::units::length::{Length, Unit};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::target::{TargetOverrideInput, TargetRule, WindowFrom};

use crate::common::{case, sheet};

fn asked(window: WindowFrom, school: TargetRule) -> TargetOverrideInput {
    TargetOverrideInput {
        window,
        low: String::new(),
        high: String::new(),
        school,
        from: String::new(),
        to: String::new(),
        unit: Unit::Mm,
        reason: "noisy when hot".into(),
    }
}

/// The limits and the aim in micrometres.
fn aims(key: &str, asked: &TargetOverrideInput) -> Option<[Option<f64>; 4]> {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, key).unwrap();
    let um = |l: Option<Length>| l.map(|l| l.as_f64() / 1e3);
    asked.resolve(&spec).unwrap().map(|(window, aim)| {
        [
            um(window.low()),
            um(window.high()),
            Some(aim.from_nm / 1e3),
            Some(aim.to_nm / 1e3),
        ]
    })
}

#[test]
fn what_the_sheet_says_already_is_no_change() {
    assert_eq!(
        aims("input-float", &asked(WindowFrom::Sheet, TargetRule::Sheet)),
        None
    );
    // Where the shop has no window of its own, the book's is the sheet's.
    assert_eq!(
        aims("input-float", &asked(WindowFrom::Book, TargetRule::Sheet)),
        None
    );
}

#[test]
fn schools_aim_where_they_say() {
    // The input float's window is 0.04 to 0.14 mm: tight and loose lie a quarter in.
    for (school, at) in [
        (TargetRule::Middle, 90.0),
        (TargetRule::Tight, 65.0),
        (TargetRule::Loose, 115.0),
    ] {
        let found = aims("input-float", &asked(WindowFrom::Sheet, school)).unwrap();
        assert_eq!(
            found,
            [Some(40.0), Some(140.0), Some(at), Some(at)],
            "{school:?}"
        );
    }
    let between = TargetOverrideInput {
        from: "0.06".into(),
        to: "3 thou".into(),
        ..asked(WindowFrom::Sheet, TargetRule::Between)
    };
    let found = aims("input-float", &between).unwrap();
    assert_eq!(found[2..], [Some(60.0), Some(76.2)]);
}

#[test]
fn the_books_window_stands_where_the_shop_works_to_another() {
    let book = aims("main-float", &asked(WindowFrom::Book, TargetRule::Middle)).unwrap();
    assert_eq!(book, [Some(140.0), Some(240.0), Some(190.0), Some(190.0)]);
    let shop = aims("main-float", &asked(WindowFrom::Sheet, TargetRule::Middle)).unwrap();
    assert_eq!(shop, [Some(140.0), Some(220.0), Some(180.0), Some(180.0)]);
}

/// Common practice, no source: the book's -2 to 0 set to -4 to 0 and a target of -3, on the job, with a reason.
#[test]
fn a_preload_of_the_shops_own_is_typed_with_its_sign() {
    let own = TargetOverrideInput {
        low: "-4 thou".into(),
        high: "0".into(),
        from: "-3 thou".into(),
        ..asked(WindowFrom::Own, TargetRule::At)
    };
    let found = aims("diff-preload", &own).unwrap();
    assert_eq!(found, [Some(-101.6), Some(0.0), Some(-76.2), Some(-76.2)]);
}

#[test]
fn a_window_open_on_one_side_is_a_window() {
    let own = TargetOverrideInput {
        low: "0.05".into(),
        from: "0.1".into(),
        ..asked(WindowFrom::Own, TargetRule::At)
    };
    assert_eq!(aims("input-float", &own).unwrap()[..2], [Some(50.0), None]);
}

#[test]
fn what_cannot_be_aimed_at_names_its_field() {
    let van = sheet("tolvane-t5");
    let own = |low: &str, high: &str, school, from: &str, to: &str| TargetOverrideInput {
        low: low.into(),
        high: high.into(),
        from: from.into(),
        to: to.into(),
        ..asked(WindowFrom::Own, school)
    };
    for (asked, field) in [
        (own("0.2", "0.1", TargetRule::Middle, "", ""), "low"),
        (own("", "", TargetRule::Middle, "", ""), "low"),
        (own("wide", "0.1", TargetRule::Middle, "", ""), "low"),
        (own("0.1", "1 furlong", TargetRule::Middle, "", ""), "high"),
        (own("0.1", "", TargetRule::Middle, "", ""), "from"),
        (own("0.1", "0.2", TargetRule::At, "", ""), "from"),
        (own("0.1", "0.2", TargetRule::At, "0.3", ""), "from"),
        (
            own("0.1", "0.2", TargetRule::Between, "0.18", "0.12"),
            "from",
        ),
        (own("0.1", "0.2", TargetRule::Between, "0.12", ""), "to"),
    ] {
        let spec = Spec::of(&van, "input-float").unwrap();
        assert_eq!(case(asked.resolve(&spec)), field, "{asked:?}");
    }
    // A question has no window to aim in.
    let transfer = sheet("brannoch-r2");
    let spec = Spec::of(&transfer, "turns-free").unwrap();
    let asked = asked(WindowFrom::Sheet, TargetRule::Middle);
    assert_eq!(case(asked.resolve(&spec)), "window");
}

#[test]
fn a_change_is_made_with_a_reason() {
    let given = asked(WindowFrom::Own, TargetRule::Middle);
    assert_eq!(given.reason().unwrap(), "noisy when hot");
    let none = TargetOverrideInput {
        reason: "  ".into(),
        ..given
    };
    assert_eq!(case(none.reason()), "reason");
}
