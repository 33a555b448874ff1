//! Nothing moves: what a travel of nothing says, with and without pieces that were chosen.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::uncertainty::estimate::{Bound, Lies};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Call;
use anvil_arithmetic::verdict::still::{Expected, judge_still};
use anvil_arithmetic::verdict::window::Window;
use anvil_rules::job::check::record::{Record, SettingState};
use anvil_rules::job::check::rules;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::workflow::Phase;
use proptest::prelude::*;

use crate::common::{blank, case, chosen, seen_to, sheet, travel, with_reading};

/// Nothing moved, with the piece in that was to give so much; no piece where nothing was expected.
fn still(key: &str, method: Method, expected: Option<(f64, f64)>) -> Record {
    let mut record = blank(key);
    if let Some((predicted_nm, u_nm)) = expected {
        record = chosen(record, 1, SettingState::Fitted);
        let setting = record.settings.last_mut().unwrap();
        (setting.predicted_nm, setting.u_nm) = (predicted_nm, u_nm);
        (record.head.round, record.head.fitted_nm) = (1, Some(1_000_000));
    }
    let record = with_reading(record, method, travel(0));
    with_reading(record, method, travel(0))
}

#[test]
fn a_preload_that_was_chosen_well_signs_by_what_was_expected() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "diff-preload").unwrap();
    let window = spec.length.unwrap().0;
    let middle = f64::midpoint(window.low_nm(), window.high_nm());
    let record = still("diff-preload", Method::DialTravel, Some((middle, 12_000.0)));
    let record = seen_to(record, &spec);
    let found = record.assess(&spec).unwrap();
    assert!(found.estimate.is_none(), "there is no figure");
    assert_eq!((found.call, found.phase), (Some(Call::In), Phase::Sign));
    assert!(found.chance().unwrap() > 0.99);
    assert_eq!(case(rules::may_sign(&record, &spec, &found, "")), "yes");
    // A prediction that is far from sure is signed with a reason only.
    let vague = still("diff-preload", Method::DialTravel, Some((middle, 60_000.0)));
    let found = vague.assess(&spec).unwrap();
    let open = (Some(Call::Inconclusive), Phase::Sign);
    assert_eq!((found.call, found.phase), open);
    assert_eq!(case(rules::may_sign(&vague, &spec, &found, "")), "reason");
}

#[test]
fn without_a_prediction_it_stays_unknown_and_says_what_would_tell() {
    let t5 = sheet("tolvane-t5");
    let preload = Spec::of(&t5, "diff-preload").unwrap();
    let float = Spec::of(&t5, "input-float").unwrap();
    let why = |record: &Record, spec: &Spec<'_>| {
        let found = record.assess(spec).unwrap();
        assert!(found.estimate.is_none());
        (found.call, found.no_estimate.unwrap())
    };
    let (call, words) = why(&still("diff-preload", Method::NoShim, None), &preload);
    assert!(
        call.is_none() && words.contains("with nothing in"),
        "{words}"
    );
    // Float was wanted: none is tight, by at least what the window begins at.
    let (call, _) = why(&still("input-float", Method::DialTravel, None), &float);
    assert_eq!(call, Some(Call::Tight));
    // Much float was expected: it is not the preload that stands still.
    let loose = still(
        "diff-preload",
        Method::DialTravel,
        Some((300_000.0, 9_000.0)),
    );
    let (call, words) = why(&loose, &preload);
    assert!(call.is_none() && words.contains("not home"), "{words}");
}

#[test]
fn a_window_from_nothing_upwards_has_no_chance_and_asks_for_a_known_shim() {
    let sheet = sheet("brannoch-r2");
    let mut spec = Spec::of(&sheet, "inter-preload").unwrap();
    let (_, aim) = spec.length.unwrap();
    spec.length = Some((Window::new(Some(Length::ZERO), None).unwrap(), aim));
    let record = still(
        "inter-preload",
        Method::DialTravel,
        Some((-5_000.0, 8_000.0)),
    );
    let found = record.assess(&spec).unwrap();
    assert_eq!((found.call, found.phase), (None, Phase::MeasureAgain));
    let words = found.no_estimate.unwrap();
    assert!(words.contains("known shim"), "{words}");
}

proptest! {
    /// In, tight and loose add up, and each call says where 95 % of what is possible lies.
    #[test]
    fn what_is_possible_is_shared_out(
        expected in -120_000.0..60_000.0_f64,
        u in 0.0..40_000.0_f64,
        dof in prop::option::of(1.0..30.0_f64),
        low in -150_000_i64..-1,
        width in 1_i64..200_000,
    ) {
        let bound = Bound { limit_nm: 0.0, lies: Lies::Below };
        let expected = Expected { clearance_nm: expected, u_nm: u, dof };
        let at = |nm| Some(Length::from_nm(nm));
        let judged = |window: Window| judge_still(bound, &expected, window);
        let Some(found) = judged(Window::new(at(low), at(low + width)).unwrap()) else {
            return Ok(());
        };
        let above_low = judged(Window::new(at(low), None).unwrap()).unwrap().chance;
        prop_assert!((0.0..=1.0).contains(&found.chance));
        prop_assert!(found.chance <= above_low + 1e-12);
        match found.call {
            Call::In => prop_assert!(found.chance >= 0.95 - 1e-9),
            Call::Tight => prop_assert!(1.0 - above_low >= 0.975 - 1e-9),
            Call::Loose => prop_assert!(above_low - found.chance >= 0.975 - 1e-9),
            _ => prop_assert!(found.chance < 0.975 + 1e-9),
        }
        // As wide as can be, all that is possible is in it.
        if low + width >= 0 {
            prop_assert!((found.chance - above_low).abs() < 1e-12);
        }
    }
}
