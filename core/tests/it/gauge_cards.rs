//! What is written on a gauge's card: read into the register, or refused by its field.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::refusal::Nature;
use anvil_arithmetic::uncertainty::gauge::GaugeKind;
use anvil_arithmetic::units::length::Length;
use anvil_rules::shop::gauge_register::{GaugeCard, RegisteredGauge, u_of_registered_micrometer};
use serde_json::{Value, json};

use crate::common::{case, gauge};

fn card(own: &Value) -> GaugeCard {
    let mut card = json!({
        "key": "dial-1", "name": "Bench dial", "unit": "mm", "resolution": "0.01", "permissible_error": "0.012",
    });
    let fields = card.as_object_mut().unwrap();
    for (field, value) in own.as_object().unwrap() {
        fields.insert(field.clone(), value.clone());
    }
    serde_json::from_value(card).unwrap()
}

#[test]
fn a_card_is_read_in_its_own_unit() {
    let dial = card(&json!({"repeatability": "0.004 mm"})).read().unwrap();
    assert_eq!(dial.kind, GaugeKind::Dial);
    let figures = dial.figures().unwrap();
    assert_eq!(figures.resolution_nm, Length::from_nm(10_000));
    assert_eq!(figures.permissible_error_nm, Length::from_nm(12_000));
    assert_eq!(
        figures.repeatability.map(|r| (r.s_nm, r.dof)),
        Some((4_000.0, None))
    );
    // A bare figure is in the card's unit, one with a unit keeps its own: an inch is 25.4 mm (1959).
    let thou = card(&json!({"unit": "thou", "resolution": "0.5", "permissible_error": "0.01 mm"}));
    let figures = thou.read().unwrap().figures().unwrap();
    assert_eq!(figures.resolution_nm, Length::from_nm(12_700));
    assert_eq!(figures.permissible_error_nm, Length::from_nm(10_000));
}

#[test]
fn leaves_are_told_apart_and_put_in_order() {
    let set = |leaves: &str| card(&json!({"kind": "feeler", "leaves": leaves})).read();
    assert_eq!(
        set("0.10, 0.05; 0.152\n6 thou").unwrap().leaves_nm,
        [50_000, 100_000, 152_000, 152_400]
    );
    for (leaves, why) in [
        ("", "leaves"),
        ("0.05, 0", "leaves"),
        ("0.05, thick", "leaves"),
        ("0.05, 0.1, 0.05 mm", "leaves"),
    ] {
        assert_eq!(case(set(leaves)), why, "{leaves}");
    }
    // Another kind of gauge has no leaves, whatever is written.
    assert!(
        card(&json!({"leaves": "0.05"}))
            .read()
            .unwrap()
            .leaves_nm
            .is_empty()
    );
}

#[test]
fn a_wrench_reads_newton_metres_and_a_scale_newtons() {
    let wrench = card(&json!({
        "kind": "torque_wrench", "resolution": "0,05 N·m", "permissible_error": "0", "repeatability": "0.02",
    }));
    let wrench = wrench.read().unwrap();
    assert_eq!(
        (wrench.unit.as_str(), wrench.resolution_si),
        ("n_m", Some(0.05))
    );
    assert_eq!(
        (wrench.permissible_error_si, wrench.repeatability_si),
        (Some(0.0), Some(0.02))
    );
    assert!(wrench.figures().is_none(), "it reads no lengths");
    let scale =
        card(&json!({"kind": "spring_scale", "resolution": "0.5 N", "permissible_error": "0.5"}));
    assert_eq!(scale.read().unwrap().unit, "n");
}

#[test]
fn what_is_wrong_with_a_card_is_named_by_its_field() {
    let long = "x".repeat(61);
    let cases = [
        (json!({"name": "  "}), "name"),
        (json!({"name": long}), "name"),
        (json!({"key": ""}), "key"),
        (json!({"key": "Dial 1"}), "key"),
        (json!({"key": "x".repeat(41)}), "key"),
        (
            json!({"checked_on": "2026-03-02", "due_on": "2026-03-02"}),
            "due_on",
        ),
        (json!({"live_at": "127.0.0.1"}), "live_at"),
        (json!({"live_at": "127.0.0.1:0"}), "live_at"),
        (json!({"live_at": "bench.example:7420"}), "live_at"),
        (json!({"resolution": "0"}), "resolution"),
        (json!({"resolution": "fine"}), "resolution"),
        (json!({"permissible_error": "-0.01"}), "permissible_error"),
        (json!({"repeatability": "1 stone"}), "repeatability"),
        (
            json!({"kind": "torque_wrench", "resolution": "0"}),
            "resolution",
        ),
        (
            json!({"kind": "torque_wrench", "permissible_error": "-1"}),
            "permissible_error",
        ),
        (
            json!({"kind": "spring_scale", "repeatability": "often"}),
            "repeatability",
        ),
    ];
    for (own, field) in cases {
        assert_eq!(case(card(&own).read()), field, "{own}");
    }
    for live_at in ["127.0.0.1:7420", "localhost:1", "[::1]:65535", ""] {
        assert!(
            card(&json!({"live_at": live_at})).read().is_ok(),
            "{live_at}"
        );
    }
}

#[test]
fn a_gauge_out_of_use_is_nobodys_usual_one() {
    let card = card(&json!({"retired": true, "usual": true}));
    assert!(!card.read().unwrap().usual);
}

/// A reading of a thickness is a reading of the scale's step and of the instrument's error, both rectangular: r/√12
/// and e/√3 (JCGM 100:2008, 4.3.7 and F.2.2.1); and one reading alone scatters as the card says (4.2.4).
#[test]
fn a_thickness_is_as_sure_as_the_micrometer_in_use() {
    let mut micrometer = gauge("micrometer", GaugeKind::Micrometer);
    micrometer.repeatability_nm = None;
    let u = u_of_registered_micrometer(std::slice::from_ref(&micrometer), None).unwrap();
    assert!(
        (u - (1e8 / 12.0 + 1e8 / 3.0_f64).sqrt()).abs() < 1e-6,
        "{u}"
    );
    micrometer.repeatability_nm = Some(10_000.0);
    let u = u_of_registered_micrometer(std::slice::from_ref(&micrometer), None).unwrap();
    let expected: f64 = 1e8 / 12.0 + 1e8 / 3.0 + 1e8;
    assert!((u - expected.sqrt()).abs() < 1e-6, "{u}");
    micrometer.retired = true;
    assert_eq!(
        case(u_of_registered_micrometer(&[micrometer], None)),
        "measured"
    );
    assert_eq!(
        case(u_of_registered_micrometer(
            &[gauge("dial", GaugeKind::Dial)],
            None
        )),
        "measured"
    );
}

/// Of two micrometers the one counts that it was taken with; where nobody says which, the one that is taken up.
#[test]
fn a_thickness_is_as_sure_as_the_micrometer_it_was_taken_with() {
    let [mut fine, mut coarse] = ["fine", "coarse"].map(|key| gauge(key, GaugeKind::Micrometer));
    (fine.resolution_nm, fine.usual) = (Some(1_000), true);
    (coarse.permissible_error_nm, coarse.usual) = (Some(40_000), false);
    let both = [coarse.clone(), fine.clone()];
    let u = |register: &[RegisteredGauge], key| u_of_registered_micrometer(register, key);
    let of = |one: &RegisteredGauge| u(std::slice::from_ref(one), None).unwrap();
    assert!(of(&coarse) > 2.0 * of(&fine));
    for (key, one) in [
        (None, &fine),
        (Some("fine"), &fine),
        (Some("coarse"), &coarse),
    ] {
        assert!((u(&both, key).unwrap() - of(one)).abs() < 1e-9, "{key:?}");
    }
    // What is no micrometer in use is named with those that are.
    let missing = u(&both, Some("dial")).unwrap_err();
    assert_eq!(missing.nature, Nature::Field("gauge_key"));
    assert!(
        missing.message.contains("coarse, fine"),
        "{}",
        missing.message
    );
    assert_eq!(case(u(&[], Some("fine"))), "gauge_key");
}

#[test]
fn each_method_is_taken_with_gauges_that_read_what_it_is_of() {
    for method in Method::ALL {
        let kinds = method.gauges();
        let of_torque = *method == Method::TurningTorque;
        assert!(
            kinds.iter().all(|k| k.of_length() != of_torque),
            "{method:?}"
        );
        let mut unlike = kinds.to_vec();
        unlike.dedup();
        assert_eq!(unlike.len(), kinds.len(), "{method:?} names one twice");
    }
}
