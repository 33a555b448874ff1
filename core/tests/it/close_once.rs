//! Closing once, and what to measure next: against simulation, and against each other.

use std::sync::Arc;

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::next_term::next_terms;
use anvil_arithmetic::measure::stack_sum::{self, Term};
use anvil_arithmetic::uncertainty::gauge::{Gauge, GaugeKind, Repeatability};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Window;
use anvil_arithmetic::verdict::{Call, judge};
use anvil_rules::job::check::close_once::{ClosingChance, LandsBy, Raise, close_once};
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::check::record::{Record, SettingState, StockLine};
use anvil_rules::sheet::{Sheet, read};
use proptest::prelude::*;
use serde_json::json;

use crate::common::{blank, chosen, gauge, line, measured, sheet, travel, with_reading};

/// Evenly over the range, the same each time.
fn dice(seed: &mut u64) -> f64 {
    // Knuth's linear congruential generator.
    *seed = seed
        .wrapping_mul(6_364_136_223_846_793_005)
        .wrapping_add(1_442_695_040_888_963_407);
    (*seed >> 11) as f64 / (1_u64 << 53) as f64
}

/// A check of the transaxle with these sizes in its drawer.
fn with_sizes(mut record: Record, sizes: &[i64]) -> Record {
    record.stock = sizes.iter().map(|nm| line(*nm)).collect();
    record.gauges.push(gauge("mike", GaugeKind::Micrometer));
    record.tolerance_nm = 20_000;
    record
}

/// The same, read off a second dial of the same make.
fn by_another(mut record: Record) -> Record {
    record.gauges.push(gauge("other", GaugeKind::Dial));
    for reading in &mut record.readings {
        reading.gauge_key = Some("other".into());
    }
    record
}

fn load(sheet: &Arc<Sheet>, record: Record) -> LoadedCheck {
    LoadedCheck::of(record, Arc::clone(sheet)).unwrap()
}

fn of(closings: &[ClosingChance], name: &str) -> ClosingChance {
    let found = closings.iter().find(|c| c.closing == name);
    found.unwrap_or_else(|| panic!("no closing {name}")).clone()
}

const BOTH: &str = "case, all shafts";

#[test]
fn the_chance_of_a_closing_is_that_of_all_its_checks_and_says_what_would_raise_it() {
    let sheet = Arc::new(sheet("tolvane-t5"));
    // 1.20 off aim by 40 µm for the input shaft, whose limits are ± 50 µm; the main shaft in the middle.
    let input = with_sizes(measured("input-float", 1_250_000), &[1_120_000, 1_200_000]);
    let input = chosen(input, 1, SettingState::Chosen);
    let main = with_sizes(measured("main-float", 1_250_000), &[1_160_000, 1_210_000]);
    let checks = [load(&sheet, input), load(&sheet, by_another(main))];
    let found = of(&close_once(&sheet, &checks).unwrap(), BOTH);
    let [input, main] = &found.checks[..] else {
        panic!("{:?}", found.checks);
    };
    assert_eq!((input.by, main.by), (LandsBy::Chosen, LandsBy::Best));
    let product = input.chance * main.chance;
    assert!((found.chance.unwrap() - product).abs() < 1e-12);
    assert!(found.at_least <= product && found.unknown.is_empty());
    // Whatever is advised is worth it, the most for the least work first, and is of a check that is there.
    assert!(!found.advice.is_empty());
    for advice in &found.advice {
        let was = found
            .checks
            .iter()
            .find(|c| c.check_key == advice.check_key);
        let was = was.unwrap().chance;
        let then = product / was * advice.chance;
        assert!((then - product - advice.gain).abs() < 1e-12 && advice.gain >= 0.005);
    }
}

#[test]
fn a_piece_that_is_off_by_its_limits_is_to_be_measured_and_a_nearer_one_taken() {
    let sheet = Arc::new(sheet("tolvane-t5"));
    let advice = |sizes: &[i64], predicted_nm: f64| {
        let record = with_sizes(measured("input-float", 1_250_000), sizes);
        let mut record = chosen(record, 1, SettingState::Chosen);
        let setting = record.settings.last_mut().unwrap();
        setting.predicted_nm = predicted_nm;
        setting.pieces[0].thickness_nm = sizes[0];
        setting.total_nm = sizes[0];
        let found = close_once(&sheet, &[load(&sheet, record)]).unwrap();
        let found = of(&found, BOTH);
        let what = found.advice.into_iter().map(|a| a.what);
        (what.collect::<Vec<_>>(), found.checks[0].chance)
    };
    // In by 10 µm, and made to ± 20.
    let (what, chance) = advice(&[1_120_000], 130_000.0);
    let mike = Raise::MikePiece {
        thickness_nm: Length::from_nm(1_120_000),
    };
    assert!(chance < 0.95 && what.contains(&mike), "{chance} {what:?}");
    let (what, _) = advice(&[1_120_000, 1_160_000], 130_000.0);
    let other = Raise::OtherPiece {
        total_nm: Length::from_nm(1_160_000),
    };
    assert_eq!(what.first(), Some(&other));
    // In the middle there is nothing to be gained.
    assert_eq!(advice(&[1_160_000], 90_000.0).0, []);
}

#[test]
fn what_is_fitted_counts_by_what_it_was_to_give_and_what_is_not_measured_is_named() {
    let sheet = Arc::new(sheet("tolvane-t5"));
    let mut fitted = chosen(blank("input-float"), 1, SettingState::Fitted);
    fitted.head.round = 1;
    let checks = [load(&sheet, fitted), load(&sheet, blank("main-float"))];
    let found = of(&close_once(&sheet, &checks).unwrap(), BOTH);
    assert_eq!(found.checks[0].by, LandsBy::Fitted);
    assert_eq!(found.chance, Some(0.9));
    assert_eq!(found.unknown, ["Main shaft end float"]);
    // Nothing at all is known: nothing is said.
    let nothing = close_once(&sheet, &[load(&sheet, blank("main-float"))]);
    assert!(nothing.unwrap().is_empty());
}

#[test]
fn checks_that_share_pieces_have_a_least_chance_and_no_product() {
    let mut value = serde_json::to_value(sheet("tolvane-t5")).unwrap();
    let checks = value["checks"].as_array_mut().unwrap();
    let main = checks
        .iter_mut()
        .find(|c| c["key"] == "main-float")
        .unwrap();
    main["moved_by"] = json!([{ "check": "input-float", "effect": 1 }]);
    let sheet = Arc::new(read(&value.to_string()).unwrap());
    let fitted = |key: &str| {
        let mut record = chosen(blank(key), 1, SettingState::Fitted);
        record.head.round = 1;
        load(&sheet, record)
    };
    let checks = [fitted("input-float"), fitted("main-float")];
    let found = of(&close_once(&sheet, &checks).unwrap(), BOTH);
    assert_eq!(found.chance, None);
    assert!((found.at_least - 0.8).abs() < 1e-12);
}

/// Two checks that want the only piece which suits both: one gets it, and the other what is left.
#[test]
fn a_piece_is_not_counted_for_two_checks_of_a_closing() {
    let mut value = serde_json::to_value(sheet("tolvane-t5")).unwrap();
    let checks = value["checks"].as_array_mut().unwrap();
    let family =
        checks.iter().find(|c| c["key"] == "input-float").unwrap()["set_by"]["family"].clone();
    let main = checks
        .iter_mut()
        .find(|c| c["key"] == "main-float")
        .unwrap();
    main["set_by"]["family"] = family;
    let sheet = Arc::new(read(&value.to_string()).unwrap());
    let closing = |sizes: &[(i64, i32)]| {
        let loaded = |key: &str| {
            let mut record = with_sizes(measured(key, 1_250_000), &[]);
            record.stock = sizes
                .iter()
                .map(|(nm, on_hand)| StockLine {
                    on_hand: *on_hand,
                    ..line(*nm)
                })
                .collect();
            load(&sheet, record)
        };
        let checks = [loaded("input-float"), loaded("main-float")];
        let [input, main] = checks;
        let main = LoadedCheck::of(by_another(main.record), Arc::clone(&sheet)).unwrap();
        of(&close_once(&sheet, &[input, main]).unwrap(), BOTH)
    };
    let chances =
        |closing: &ClosingChance| -> Vec<f64> { closing.checks.iter().map(|c| c.chance).collect() };
    let two = closing(&[(1_160_000, 2)]);
    assert!(chances(&two).iter().all(|p| *p > 0.9), "{two:?}");
    let one = closing(&[(1_160_000, 1)]);
    let mut both = chances(&one);
    both.sort_by(f64::total_cmp);
    assert!(both[0] < 0.1 && both[1] > 0.9, "{both:?}");
    assert!((one.chance.unwrap() - both[0] * both[1]).abs() < 1e-12);
    assert!(one.at_least <= both[0] + 1e-12);
    // With a second size that does less well, one of them takes that: whichever is likelier to land with it.
    let other = closing(&[(1_160_000, 1), (1_200_000, 1)]);
    let alone = |sizes: &[(i64, i32)], at: usize| closing(sizes).checks[at].chance;
    let (near, far) = ([(1_160_000, 2)], [(1_200_000, 2)]);
    let ways = [
        alone(&near, 0) * alone(&far, 1),
        alone(&far, 0) * alone(&near, 1),
    ];
    let likelier = ways[0].max(ways[1]);
    assert!(
        (other.chance.unwrap() - likelier).abs() < 1e-9,
        "{other:?} {ways:?}"
    );
}

/// What one dial is off by, it is off by in both: thirty thousand closings thrown with one error each, and with one for
/// each check where two dials took them. Near one limit each they land or miss together; near opposite limits, in turn.
#[test]
fn checks_taken_with_one_gauge_are_off_alike() {
    // With nothing to set them and nothing between trial and final build, so that they stay as they are measured.
    let mut value = serde_json::to_value(sheet("tolvane-t5")).unwrap();
    for check in value["checks"].as_array_mut().unwrap() {
        for field in ["set_by", "adjustments", "shop_window"] {
            check.as_object_mut().unwrap().remove(field);
        }
    }
    let sheet = Arc::new(read(&value.to_string()).unwrap());
    let window = |key: &str| {
        let check = sheet.checks.iter().find(|c| c.key == key).unwrap();
        let ends = check.window.as_ref().unwrap();
        [&ends.low, &ends.high].map(|l| l.as_ref().unwrap().length().nm())
    };
    let (input, main) = (window("input-float"), window("main-float"));
    for at in [
        [input[1] - 3_000, main[1] - 4_000],
        [input[0] + 3_000, main[1] - 4_000],
    ] {
        let checks = |two: bool| {
            let main = measured("main-float", at[1]);
            let main = if two { by_another(main) } else { main };
            [
                load(&sheet, measured("input-float", at[0])),
                load(&sheet, main),
            ]
        };
        let said = |two: bool| {
            of(&close_once(&sheet, &checks(two)).unwrap(), BOTH)
                .chance
                .unwrap()
        };
        let mut seed = 4;
        let n = 30_000;
        let mut even = |half: f64| (2.0 * dice(&mut seed) - 1.0) * half;
        let mut both = [0, 0];
        for _ in 0..n {
            let errors = [even(10_000.0), even(10_000.0)];
            // Each of three readings is rounded by itself; the scatter of 4 µm as twelve throws (the central limit).
            let one = |even: &mut dyn FnMut(f64) -> f64| {
                even(5_000.0) + (0..12).map(|_| even(2_000.0)).sum::<f64>()
            };
            let rest = [0, 1].map(|_| (0..3).map(|_| one(&mut even)).sum::<f64>() / 3.0);
            for (two, count) in both.iter_mut().enumerate() {
                let lands = |n: usize, [low, high]: [i64; 2]| {
                    let c = at[n] as f64 + errors[n * two] + rest[n];
                    (low as f64..=high as f64).contains(&c)
                };
                *count += i32::from(lands(0, input) && lands(1, main));
            }
        }
        for (two, count) in both.into_iter().enumerate() {
            let often = f64::from(count) / f64::from(n);
            let said = said(two == 1);
            let se = (said * (1.0 - said) / f64::from(n)).sqrt();
            assert!(
                (often - said).abs() < 4.0 * se + 1e-3,
                "{often} for {said} at {at:?}, {two}"
            );
        }
        assert!((said(true) - said(false)).abs() > 0.02);
    }
}

/// Ten thousand closings of independent checks, each thrown by its own chance.
#[test]
fn as_many_closings_land_as_it_says() {
    let sheet = Arc::new(sheet("tolvane-t5"));
    let fitted = |key: &str, chance| {
        let mut record = chosen(blank(key), 1, SettingState::Fitted);
        record.head.round = 1;
        record.settings.last_mut().unwrap().chance = chance;
        load(&sheet, record)
    };
    let chances = [0.83, 0.94];
    let checks = [fitted("input-float", 0.83), fitted("main-float", 0.94)];
    let said = of(&close_once(&sheet, &checks).unwrap(), BOTH)
        .chance
        .unwrap();
    let mut seed = 27;
    let n = 10_000;
    let landed = (0..n).filter(|_| chances.iter().all(|p| dice(&mut seed) < *p));
    let often = landed.count() as f64 / f64::from(n);
    let se = (said * (1.0 - said) / f64::from(n)).sqrt();
    assert!((often - said).abs() < 3.0 * se, "{often} for {said}");
}

fn term(what: &str, opens: bool, um: i64, limits_um: i64) -> Term {
    Term {
        what: what.into(),
        opens,
        length_nm: Length::from_nm(um * 1_000),
        tolerance_nm: Some(Length::from_nm(limits_um * 1_000)),
        measured_nm: Vec::new(),
        by: Vec::new(),
    }
}

fn micrometer() -> Gauge {
    let known = Repeatability {
        s_nm: 1_000.0,
        dof: None,
    };
    Gauge::new(Length::from_nm(1_000), Length::from_nm(3_000), Some(known)).unwrap()
}

/// A term thrown within its limits five thousand times, measured, and judged: as many are settled as was said.
#[test]
fn measuring_a_term_settles_the_verdict_as_often_as_it_says() {
    let terms = [
        term("drum", true, 22_800, 90),
        term("plate", false, 4_100, 120),
        term("steels", false, 18_290, 30),
    ];
    let at = |um: i64| Some(Length::from_nm(um * 1_000));
    let window = Window::new(at(300), at(560)).unwrap();
    let gauge = micrometer();
    let (now, sum) = stack_sum::estimate(&terms, gauge, &[]).unwrap();
    let next = next_terms(&terms, gauge, &[], (&now, &sum), window).unwrap();
    assert_eq!(next[0].term, 2, "the plate's limits are the widest");
    for one in next {
        let mut seed = 91;
        let n = 5_000;
        let mut called = [0_u32; 2];
        for _ in 0..n {
            let limits = terms[one.term - 1].tolerance_nm.unwrap().as_f64();
            let off = (2.0 * dice(&mut seed) - 1.0) * limits;
            let mut then = terms.to_vec();
            let was = then[one.term - 1].length_nm.as_f64();
            #[allow(clippy::cast_possible_truncation)] // a part's width
            let width = Length::from_nm((was + off).round() as i64);
            then[one.term - 1].measured_nm = vec![width];
            let (found, _) = stack_sum::estimate(&then, gauge, &[]).unwrap();
            let call = judge(&found, window).call;
            called[0] += u32::from(call == Call::In);
            called[1] += u32::from(call != Call::Inconclusive);
        }
        for (count, said) in called.into_iter().zip([one.inside, one.settled]) {
            let often = f64::from(count) / f64::from(n);
            let se = (said * (1.0 - said) / f64::from(n)).sqrt();
            assert!((often - said).abs() < 3.0 * se + 1e-3, "{one:?}: {often}");
        }
    }
}

/// What would settle it is the plate, and never judgement, while parts are known by their limits only.
#[test]
fn a_verdict_left_open_by_the_limits_of_parts_names_the_part_to_measure() {
    let sheet = sheet("ormhal-a4");
    let spec = anvil_rules::job::check::spec::Spec::of(&sheet, "direct-pack").unwrap();
    let found = blank("direct-pack").assess(&spec).unwrap();
    let verdict = found.verdict.unwrap();
    assert_eq!(verdict.call, Call::Inconclusive);
    let Some(anvil_arithmetic::verdict::Remedy::MeasureTerm { term }) = verdict.settled_by else {
        panic!("{:?}", verdict.settled_by);
    };
    let anvil_arithmetic::measure::Detail::Sum { sum, next } = &found.methods[0].measured.detail
    else {
        panic!("no sum");
    };
    assert_eq!(next[0].term, term);
    let shares = sum.terms.iter().map(|t| t.share);
    assert!(sum.terms[term - 1].share >= shares.fold(0.0, f64::max) - 1e-12);
    // A travel has no such terms.
    let float = with_reading(blank("train-play"), Method::DialTravel, travel(400_000));
    let spec = anvil_rules::job::check::spec::Spec::of(&sheet, "train-play").unwrap();
    assert!(float.assess(&spec).unwrap().verdict.is_some());
}

proptest! {
    /// Never surer than one, and the one said to settle most is first.
    #[test]
    fn each_term_is_settled_within_reason(
        limits in prop::collection::vec(5_i64..150, 2..6),
        low in 0_i64..400,
        width in 20_i64..400,
    ) {
        let fills = limits.iter().map(|l| term("part", false, 2_000, *l));
        let count = i64::try_from(limits.len()).unwrap();
        let mut terms: Vec<_> = fills.collect();
        terms.push(term("case", true, 2_000 * count + 300, 40));
        let at = |um: i64| Some(Length::from_nm(um * 1_000));
        let window = Window::new(at(low), at(low + width)).unwrap();
        let (now, sum) = stack_sum::estimate(&terms, micrometer(), &[]).unwrap();
        let known = (&now, &sum);
        let next = next_terms(&terms, micrometer(), &[], known, window).unwrap();
        prop_assert_eq!(next.len(), terms.len());
        for pair in next.windows(2) {
            prop_assert!(pair[0].settled >= pair[1].settled);
        }
        for one in next {
            prop_assert!((0.0..=1.0).contains(&one.settled) && one.inside <= one.settled + 1e-12);
            prop_assert!(one.expanded_nm <= now.expanded_uncertainty_nm() + 1.0);
        }
    }
}
