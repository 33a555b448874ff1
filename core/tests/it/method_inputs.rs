//! What is typed for each method: what is read of it, how it is told in a line, and which field is at fault.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::{Reading, ReadingInput};
use anvil_arithmetic::refusal::Nature;
use anvil_arithmetic::units::length::Unit;
use serde_json::{Value, json};

fn input(value: Value) -> ReadingInput {
    serde_json::from_value(value).unwrap()
}

/// Method, what was typed (bare figures in thou), the line on the record, and what is read of it.
#[allow(clippy::too_many_lines)] // a table of cases is as long as it is
fn right() -> Vec<(Method, Value, &'static str, Value)> {
    use Method::{
        AtTeeth, ByHand, DepthFromBar, DialTravel, Feeler, KnownShim, NoShim, OneByOne,
        SelectorGaps, StackSum, TurningTorque, YesNo,
    };
    vec![
        (
            DialTravel,
            json!({"kind": "travel", "travel": " 6 1/2 "}),
            "6 1/2",
            json!({"kind": "travel", "travel_nm": 165_100, "tilt_deg": 0.0, "pull_n": null, "turned": null}),
        ),
        (
            NoShim,
            json!({"kind": "travel", "travel": "40", "tilt": "5", "pull": "20"}),
            "40",
            json!({"kind": "travel", "travel_nm": 1_016_000, "tilt_deg": 5.0, "pull_n": 20.0, "turned": null}),
        ),
        (
            DialTravel,
            json!({"kind": "pair", "home": "1.02 mm", "out": "1.17 mm"}),
            "1.02 mm to 1.17 mm",
            json!({"kind": "pair", "home_nm": 1_020_000, "out_nm": 1_170_000, "tilt_deg": 0.0, "pull_n": null, "turned": null}),
        ),
        (
            Feeler,
            json!({"kind": "leaf", "leaves": "0.05 mm + 0.10 mm", "fit": "refused"}),
            "0.05 mm + 0.10 mm does not go",
            json!({"kind": "leaf", "leaves_nm": [50_000, 100_000], "fit": "refused"}),
        ),
        (
            DepthFromBar,
            json!({"kind": "depth", "place": 2, "of": 6, "depth": "1 in", "bar": "1/4 in"}),
            "place 2: 1 in over bar 1/4 in",
            json!({"kind": "depth", "place": 2, "of": 6, "depth_nm": 25_400_000, "bar_nm": 6_350_000, "bar_on": "face"}),
        ),
        (
            StackSum,
            json!({"kind": "term", "term": 3, "length": "18.02 mm"}),
            "term 3: 18.02 mm",
            json!({"kind": "term", "term": 3, "length_nm": 18_020_000}),
        ),
        (
            KnownShim,
            json!({"kind": "known_shim", "shim": "3", "float": "1"}),
            "3 in, float 1",
            json!({"kind": "known_shim", "shim_nm": 76_200, "float_nm": 25_400}),
        ),
        (
            KnownShim,
            json!({"kind": "known_shim", "shim": "none", "float": "4"}),
            "none in, float 4",
            json!({"kind": "known_shim", "shim_nm": 0, "float_nm": 101_600}),
        ),
        (
            TurningTorque,
            json!({"kind": "torque", "torque": "1.9 N·m"}),
            "1.9 N·m",
            json!({"kind": "torque", "torque_n_m": 1.9}),
        ),
        (
            TurningTorque,
            json!({"kind": "pull", "force": "20 N", "radius": "75 mm"}),
            "20 N at 75 mm",
            json!({"kind": "pull", "force_n": 20.0, "radius_nm": 75_000_000}),
        ),
        (
            OneByOne,
            json!({"kind": "pinion", "pinion": 3, "play": "12"}),
            "pinion 3: 12",
            json!({"kind": "pinion", "pinion": 3, "play_nm": 304_800}),
        ),
        (
            SelectorGaps,
            json!({"kind": "gaps", "gear": 1, "left": "0.6 mm", "right": "0.9 mm"}),
            "gear 1: 0.6 mm left, 0.9 mm right",
            json!({"kind": "gaps", "gear": 1, "left_nm": 600_000, "right_nm": 900_000}),
        ),
        (
            YesNo,
            json!({"kind": "answer", "answer": "no"}),
            "no",
            json!({"kind": "answer", "answer": "no"}),
        ),
        (
            AtTeeth,
            json!({"kind": "tooth", "place": 2, "play": "6"}),
            "place 2: 6",
            json!({"kind": "tooth", "place": 2, "play_nm": 152_400, "moved_nm": 0}),
        ),
        (
            AtTeeth,
            json!({"kind": "tooth", "place": 3, "play": "7", "moved": "-4"}),
            "place 3: 7, ring gear moved by -4",
            json!({"kind": "tooth", "place": 3, "play_nm": 177_800, "moved_nm": -101_600}),
        ),
        (
            ByHand,
            json!({"kind": "by_hand", "from": "6", "to": "8"}),
            "6 to 8",
            json!({"kind": "by_hand", "from_nm": 152_400, "to_nm": 203_200}),
        ),
        (
            ByHand,
            json!({"kind": "by_hand", "from": "-2"}),
            "about -2",
            json!({"kind": "by_hand", "from_nm": -50_800, "to_nm": -50_800}),
        ),
    ]
}

#[test]
fn what_is_typed_is_read_and_told_in_a_line() {
    for (method, typed, line, read) in right() {
        let input = input(typed.clone());
        assert_eq!(input.text(), line, "{typed}");
        let reading = input.read_for(method, Unit::Thou).unwrap();
        assert_eq!(serde_json::to_value(&reading).unwrap(), read, "{typed}");
        // What is kept is read back as it was.
        assert_eq!(serde_json::from_value::<Reading>(read).unwrap(), reading);
        assert_eq!(
            serde_json::from_value::<ReadingInput>(serde_json::to_value(&input).unwrap()).unwrap(),
            input
        );
    }
}

#[test]
fn every_method_takes_its_own_kinds_of_reading_and_no_other() {
    for method in Method::ALL.iter().copied() {
        let own = right().into_iter().filter(|r| r.0 == method).count();
        assert!(own > 0, "no case of {method:?}");
        for (other, typed, ..) in right() {
            let travels = |m| matches!(m, Method::DialTravel | Method::NoShim);
            let fits = other == method || (travels(other) && travels(method));
            let read = input(typed.clone()).read_for(method, Unit::Thou);
            assert_eq!(read.is_ok(), fits, "{typed} by {method:?}");
            if let Err(refusal) = read {
                assert_eq!(refusal.nature, Nature::Field("way"));
            }
        }
    }
}

#[test]
fn a_travel_longer_than_any_dial_says_so() {
    for (travel, far) in [("100 mm", false), ("100.001 mm", true), ("5000 mm", true)] {
        let read = input(json!({"kind": "travel", "travel": travel})).read(Unit::Mm);
        let why = read.err().map(|fault| fault.why).unwrap_or_default();
        assert_eq!(
            why.contains("further than any dial travels (100 mm)"),
            far,
            "{why}"
        );
    }
}

#[test]
fn what_cannot_be_read_names_its_field() {
    for (typed, field) in [
        (json!({"kind": "travel", "travel": ""}), "travel"),
        (json!({"kind": "travel", "travel": "6 furlongs"}), "travel"),
        (json!({"kind": "travel", "travel": "-6"}), "travel"),
        (json!({"kind": "travel", "travel": "5000 mm"}), "travel"),
        (
            json!({"kind": "travel", "travel": "6", "tilt": "steep"}),
            "tilt",
        ),
        (
            json!({"kind": "travel", "travel": "6", "pull": "hard"}),
            "pull",
        ),
        (json!({"kind": "pair", "home": "x", "out": "1"}), "home"),
        (json!({"kind": "pair", "home": "2", "out": "1"}), "out"),
        (
            json!({"kind": "leaf", "leaves": "", "fit": "goes"}),
            "leaves",
        ),
        (
            json!({"kind": "leaf", "leaves": "1 + 2 + 3 + 4 + 5", "fit": "goes"}),
            "leaves",
        ),
        (
            json!({"kind": "depth", "place": 1, "of": 6, "depth": "", "bar": ""}),
            "depth",
        ),
        (
            json!({"kind": "depth", "place": 7, "of": 6, "depth": "1 in"}),
            "place",
        ),
        (json!({"kind": "term", "term": 1, "length": "0"}), "length"),
        (
            json!({"kind": "known_shim", "shim": " ", "float": "1"}),
            "shim",
        ),
        (
            json!({"kind": "known_shim", "shim": "thin", "float": "1"}),
            "shim",
        ),
        (
            json!({"kind": "known_shim", "shim": "3", "float": ""}),
            "float",
        ),
        (json!({"kind": "torque", "torque": "2 bar"}), "torque"),
        (
            json!({"kind": "pull", "force": "20 N", "radius": "0"}),
            "radius",
        ),
        (
            json!({"kind": "pull", "force": "", "radius": "75 mm"}),
            "force",
        ),
        (
            json!({"kind": "pinion", "pinion": 0, "play": "12"}),
            "pinion",
        ),
        (json!({"kind": "pinion", "pinion": 1, "play": "e"}), "play"),
        (
            json!({"kind": "gaps", "gear": 0, "left": "1", "right": "1"}),
            "gear",
        ),
        (
            json!({"kind": "gaps", "gear": 1, "left": "1", "right": "-1"}),
            "right",
        ),
        (json!({"kind": "by_hand", "from": "8", "to": "6"}), "to"),
        (json!({"kind": "by_hand", "from": ""}), "from"),
    ] {
        let fault = input(typed.clone()).read(Unit::Thou).unwrap_err();
        assert_eq!(fault.field, field, "{typed}");
        assert!(fault.to_string().len() > 15, "{typed}: {fault}");
    }
}

#[test]
fn a_reading_without_a_figure_has_no_gauge_and_every_other_method_has_some() {
    for method in Method::ALL.iter().copied() {
        let none = matches!(method, Method::ByHand | Method::YesNo);
        assert_eq!(method.gauges().is_empty(), none, "{method:?}");
    }
}

#[test]
fn the_words_of_methods_are_those_that_are_kept() {
    for method in Method::ALL.iter().copied() {
        let word: &str = method.into();
        assert_eq!(word.parse::<Method>().unwrap(), method);
        assert_eq!(serde_json::to_value(method).unwrap(), word);
    }
    assert!("guess".parse::<Method>().is_err());
}
