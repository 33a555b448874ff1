//! Seat heights and fits: signs, limits, what stands beside them, and what cannot be.

use anvil_arithmetic::calculators::fit::{HeatFit, heat_fit};
use anvil_arithmetic::materials::expansion::Material;
use anvil_arithmetic::measure::depth_ring::{self, BarOn, DepthReading};
use anvil_arithmetic::measure::stack_sum::{self, Term, TermReading};
use anvil_arithmetic::measure::{Method, Reading};
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Call;
use anvil_rules::job::check::fits::{FitRemedy, FitSays, GrooveSays};
use anvil_rules::job::check::record::Record;
use anvil_rules::job::check::rules;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::{Sheet, read};
use proptest::prelude::*;
use serde_json::{Value, json};

use crate::common::{blank, case, seen_to, sheet, with_reading};

fn nm(nm: i64) -> Length {
    Length::from_nm(nm)
}

/// To far less than a nanometre.
fn near(found: f64, expected: f64) {
    assert!((found - expected).abs() < 1e-6, "{found} for {expected}");
}

fn gauge() -> Gauge {
    let known = Repeatability {
        s_nm: 2_000.0,
        dof: None,
    };
    Gauge::new(nm(1_000), nm(3_000), Some(known)).unwrap()
}

fn depth(place: u16, um: i64, bar_on: BarOn) -> DepthReading {
    DepthReading {
        place,
        of: 4,
        depth_nm: nm(um * 1_000),
        bar_nm: nm(9_980_000),
        bar_on,
    }
}

fn seat(depths: &[(u16, i64)], bar_on: BarOn) -> Record {
    let take = |record, (place, um): &(u16, i64)| {
        with_reading(
            record,
            Method::DepthFromBar,
            depth(*place, *um, bar_on).into(),
        )
    };
    depths.iter().fold(blank("needle-seat"), take)
}

fn term(term: u16, nm: i64) -> Reading {
    TermReading {
        term,
        length_nm: Length::from_nm(nm),
    }
    .into()
}

/// A demo sheet with a check of it written otherwise.
fn with(name: &str, key: &str, change: impl FnOnce(&mut Value)) -> Result<Sheet, Vec<String>> {
    let mut value = serde_json::to_value(sheet(name)).unwrap();
    let checks = value["checks"].as_array_mut().unwrap();
    change(checks.iter_mut().find(|c| c["key"] == key).unwrap());
    read(&value.to_string()).map_err(|faults| faults.into_iter().map(|f| f.place).collect())
}

#[test]
fn the_bar_on_the_face_is_below_and_on_the_part_is_proud() {
    let sheet = sheet("skelt-m5");
    let spec = Spec::of(&sheet, "needle-seat").unwrap();
    let found = |record: &Record| record.assess(&spec).unwrap();
    let places = [(1, 11_070), (2, 11_030), (3, 11_040), (4, 11_080)];
    let below = found(&seat(&places, BarOn::Face));
    near(below.estimate.unwrap().clearance_nm, -1_075_000.0);
    assert_eq!(below.call, Some(Call::In));
    let proud = found(&seat(&places, BarOn::Part));
    near(proud.estimate.unwrap().clearance_nm, 1_075_000.0);
    assert_eq!(proud.call, Some(Call::Loose), "it stands far too high");
}

#[test]
fn a_covered_groove_asks_why_although_the_height_is_in_its_window() {
    // The groove's edge within the window, so that a part may be in it and not be home.
    let sheet = with("skelt-m5", "needle-seat", |c| {
        c["groove"] = json!("-1.15 mm");
    })
    .unwrap();
    let spec = Spec::of(&sheet, "needle-seat").unwrap();
    let groove = |record: &Record| {
        let found = record.assess(&spec).unwrap();
        let groove = GrooveSays::of(&spec, found.estimate.as_ref()).unwrap();
        assert_eq!(found.call, Some(Call::In));
        (
            groove.verdict.call,
            case(rules::may_sign(record, &spec, &found, "")),
        )
    };
    let all_round = |um| [(1, um), (2, um), (3, um), (4, um)];
    let seat = |places: &[(u16, i64)], on| seen_to(seat(places, on), &spec);
    let home = seat(&all_round(9_980 + 1_190), BarOn::Face);
    assert_eq!(groove(&home), (Call::In, "yes"));
    let short = seat(&all_round(9_980 + 1_100), BarOn::Face);
    assert_eq!(groove(&short), (Call::Loose, "reason"));
    let edge = seat(&all_round(9_980 + 1_151), BarOn::Face);
    assert_eq!(groove(&edge), (Call::Inconclusive, "reason"));
}

#[test]
fn proud_and_below_in_one_list_and_a_bar_on_a_part_elsewhere_are_refused_at_their_field() {
    let m5 = sheet("skelt-m5");
    let spec = Spec::of(&m5, "needle-seat").unwrap();
    let record = seat(&[(1, 11_070)], BarOn::Face);
    let may = |record: &Record, spec: &Spec<'_>, bar_on| {
        let reading = depth(2, 11_070, bar_on).into();
        case(rules::may_read(
            record,
            spec,
            Method::DepthFromBar,
            &reading,
            None,
        ))
    };
    assert_eq!(may(&record, &spec, BarOn::Part), "bar_on");
    assert_eq!(may(&record, &spec, BarOn::Face), "yes");
    let t5 = sheet("tolvane-t5");
    let float = Spec::of(&t5, "input-float").unwrap();
    assert_eq!(may(&blank("input-float"), &float, BarOn::Part), "bar_on");
    // Kept all the same, from a file: no figure, and why.
    let mixed = [depth(1, 11_070, BarOn::Face), depth(2, 11_070, BarOn::Part)];
    let why = depth_ring::height(&mixed, gauge(), &[]).unwrap_err();
    assert!(why.to_string().contains("one way"), "{why}");
}

/// ISO 286-2 limits of holes and shafts from 50 to 80 mm, in micrometres, from memory: H7 0 to +30; g6 −29 to −10,
/// k6 +2 to +21, n6 +20 to +39, p6 +32 to +51. A fit's extremes are the limits against each other.
#[test]
fn the_extremes_of_standard_fits() {
    let side = |opens, low: i64, high: i64| Term {
        what: "a diameter".into(),
        opens,
        length_nm: nm(62_000_000 + (low + high) * 500),
        tolerance_nm: Some(nm((high - low) * 500)),
        measured_nm: Vec::new(),
        by: Vec::new(),
    };
    for (name, (low, high), tightest, loosest) in [
        ("H7/g6", (-29, -10), 10, 59),
        ("H7/k6", (2, 21), -21, 28),
        ("H7/n6", (20, 39), -39, 10),
        ("H7/p6", (32, 51), -51, -2),
    ] {
        let terms = [side(true, 0, 30), side(false, low, high)];
        let (found, sum) = stack_sum::estimate(&terms, gauge(), &[]).unwrap();
        let um = (sum.worst_low_nm / 1e3, sum.worst_high_nm / 1e3);
        assert_eq!(um, (f64::from(tightest), f64::from(loosest)), "{name}");
        // JCGM 100:2008, 4.3.7: each within its limits, as a rectangle.
        let u = ((15_000.0_f64.powi(2) + 9_500.0_f64.powi(2)) / 3.0).sqrt();
        assert!((found.u_nm - u).abs() < 1e-6, "{name}");
    }
}

#[test]
fn a_fit_is_bore_less_part_by_limits_until_it_is_measured() {
    let sheet = sheet("brannoch-r2");
    let spec = Spec::of(&sheet, "cover-fit").unwrap();
    let record = blank("cover-fit");
    let offered = [Method::StackSum, Method::ByHand];
    assert_eq!(rules::offered_methods(&record, &spec), offered);
    let by_limits = record.assess(&spec).unwrap().estimate.unwrap();
    let nominal = 26_244 - 26_250;
    assert!((by_limits.clearance_nm / 2_540.0 - f64::from(nominal)).abs() < 1e-6);
    // Half a thou more than its limits allow.
    let bore_nm = 66_671_444;
    let record = with_reading(record, Method::StackSum, term(1, bore_nm));
    let found = record.assess(&spec).unwrap();
    let part_nm = 66_675_000;
    let measured = found.estimate.as_ref().unwrap();
    near(measured.clearance_nm, (bore_nm - part_nm) as f64);
    assert_eq!((by_limits.readings, measured.readings), (0, 1));
}

#[test]
fn a_loose_fit_says_what_can_be_done_and_a_tight_one_how_it_goes_together() {
    let sheet = sheet("brannoch-r2");
    let spec = Spec::of(&sheet, "cover-fit").unwrap();
    let says = |bore_nm: i64, part_nm: i64| {
        let record = with_reading(blank("cover-fit"), Method::StackSum, term(1, bore_nm));
        let record = with_reading(record, Method::StackSum, term(2, part_nm));
        let found = record.assess(&spec).unwrap();
        let detail = &found.methods[0].measured.detail;
        FitSays::of(&spec, found.estimate.as_ref(), detail)
            .unwrap()
            .unwrap()
    };
    let loose = says(66_708_000, 66_674_000);
    let [compound, other, sleeve] = &loose.ways_out[..] else {
        panic!("{:?}", loose.ways_out);
    };
    let FitRemedy::Compound { up_to_nm, chance } = compound else {
        panic!("{compound:?}");
    };
    assert!(*up_to_nm == nm(101_600) && *chance > 0.999);
    let FitRemedy::OtherPart { diameter_nm } = other else {
        panic!("{other:?}");
    };
    // What is aimed at is 0.6 thou of interference.
    assert!((diameter_nm - 66_723_240.0).abs() < 1e-3, "{diameter_nm}");
    assert_eq!(*sleeve, FitRemedy::Sleeve);
    let tight = says(66_659_000, 66_675_000);
    assert_eq!(tight.ways_out, []);
    // The sum of heat fits says the same.
    let alone = heat_fit(&HeatFit {
        bore_nm: nm(66_659_000),
        bore_of: Material::Aluminium,
        part_nm: nm(66_675_000),
        part_of: Material::Steel,
        clearance_nm: nm(30_480),
        part_c: 20.0,
        limit_c: 120.0,
    })
    .unwrap();
    assert_eq!(tight.heat.unwrap().bore_c, alone.bore_c);
}

#[test]
fn what_cannot_be_a_fit_or_a_seat_is_named_at_its_field() {
    let sheet = sheet("brannoch-r2");
    let spec = Spec::of(&sheet, "cover-fit").unwrap();
    let may = |record: &Record, term_no, nm| {
        let reading = term(term_no, nm);
        case(rules::may_read(
            record,
            &spec,
            Method::StackSum,
            &reading,
            None,
        ))
    };
    let record = blank("cover-fit");
    // A bore smaller than its part by a millimetre, by the sheet's figure and by what was measured.
    assert_eq!(may(&record, 1, 65_675_000), "length");
    assert_eq!(may(&record, 1, 66_650_000), "yes");
    let record = with_reading(record, Method::StackSum, term(2, 66_300_000));
    assert_eq!(may(&record, 1, 67_290_000), "yes");
    assert_eq!(may(&record, 1, 67_300_000), "length");

    let faults = |key: &str, change: fn(&mut Value)| {
        let name = if key == "cover-fit" {
            "brannoch-r2"
        } else {
            "skelt-m5"
        };
        with(name, key, change).unwrap_err().join(" ")
    };
    let apart = faults("cover-fit", |c| {
        c["fit"]["bore"]["diameter"] = json!("2.5 in");
    });
    assert!(apart.contains("/fit/part/diameter"), "{apart}");
    let without = faults("cover-fit", |c| {
        c.as_object_mut().unwrap().remove("fit");
    });
    assert!(without.contains("/fit"), "{without}");
    let kind = faults("cover-fit", |c| {
        c["kind"] = json!("end_float");
    });
    assert!(kind.ends_with("/kind"), "{kind}");
    let method = faults("cover-fit", |c| {
        c["method"] = json!("dial_travel");
    });
    assert!(method.ends_with("/method"), "{method}");
    let nothing = faults("cover-fit", |c| {
        c["fit"]["drop_in"] = json!("0 mm");
    });
    assert!(nothing.ends_with("/fit/drop_in"), "{nothing}");
    let groove = faults("needle-seat", |c| {
        c["kind"] = json!("thrust_clearance");
    });
    assert!(groove.ends_with("/groove"), "{groove}");
    let leaves = faults("needle-seat", |c| {
        c["method"] = json!("feeler");
    });
    assert!(leaves.ends_with("/method"), "{leaves}");
}

proptest! {
    /// Whichever the bar lies on, the same depths say the same height, on the other side of the face.
    #[test]
    fn a_height_turned_over_is_as_sure(depths in prop::collection::vec(9_990_i64..12_000, 4..12)) {
        let on = |bar_on| {
            let of = u16::try_from(depths.len()).unwrap();
            let list: Vec<_> = (1..=of)
                .zip(&depths)
                .map(|(place, um)| DepthReading { of, ..depth(place, *um, bar_on) })
                .collect();
            depth_ring::height(&list, gauge(), &[]).unwrap()
        };
        let ((below, lay), (proud, stood)) = (on(BarOn::Face), on(BarOn::Part));
        near(below.clearance_nm, -proud.clearance_nm);
        near(below.u_nm, proud.u_nm);
        near(lay.rise_nm, stood.rise_nm);
    }
}
