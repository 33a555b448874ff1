//! Every way of measuring against facts from outside and against each other.
//!
//! `reference/reference.json` was made by `reference/make.py` with the libraries it names.

use anvil_core::estimate::Origin;
use anvil_core::gauge::{Gauge, Repeatability};
use anvil_core::judge::{Call, SettledBy, judge};
use anvil_core::length::{Length, Unit};
use anvil_core::live::Lines;
use anvil_core::measure::compare::compare;
use anvil_core::measure::dial::{Trial, estimate_trials};
use anvil_core::measure::entry::{Entry, Taken};
use anvil_core::measure::feeler::{self, Advice, FeelerError, Fit, Try, advise};
use anvil_core::measure::known_shim::{self, KnownShimError, WithShim};
use anvil_core::measure::ring::{self, Depth, RingError};
use anvil_core::measure::stack::{self, StackError, Term};
use anvil_core::measure::torque::{self, N_M_PER_LBF_FT, Torque, TorqueEnds, TorqueGauge};
use anvil_core::measure::{Adjustment, MeasureError, by_hand, dial};
use anvil_core::window::Window;
use proptest::prelude::*;
use serde_json::Value;

fn nm(nm: i64) -> Length {
    Length::from_nm(nm)
}

fn thou(thou: i64) -> Length {
    nm(thou * 25_400)
}

fn gauge(step: i64, error: i64, s: Option<f64>) -> Gauge {
    let repeatability = s.map(|s_nm| Repeatability { s_nm, dof: None });
    Gauge::new(nm(step), nm(error), repeatability).unwrap()
}

fn window(low: i64, high: i64) -> Window {
    Window::new(Some(nm(low)), Some(nm(high))).unwrap()
}

fn reference() -> Value {
    serde_json::from_str(include_str!("reference/reference.json")).unwrap()
}

fn close(found: f64, wanted: f64, share: f64) {
    assert!(
        (found - wanted).abs() <= share * wanted.abs().max(1.0),
        "{found} is not {wanted}"
    );
}

// ---- dial

/// A plunger tilted by θ reads long by 1/cos θ (common practice; the figures by `uncertainties`).
#[test]
fn a_tilted_plunger_is_taken_out() {
    for case in reference()["tilts"].as_array().unwrap() {
        let trial = Trial {
            travel: nm(case["reading"].as_i64().unwrap()),
            tilt_deg: case["degrees"].as_f64().unwrap(),
            ..Trial::default()
        };
        let found = estimate_trials(&[trial; 3], gauge(1_000, 0, None), &[]).unwrap();
        close(found.clearance_nm, case["true"].as_f64().unwrap(), 1e-12);
    }
    let flat = Trial {
        travel: nm(100_000),
        tilt_deg: 75.0,
        ..Trial::default()
    };
    assert_eq!(
        estimate_trials(&[flat], gauge(1_000, 0, None), &[]),
        Err(MeasureError::BadTilt { trial: 1 })
    );
}

/// The step counts once for a travel off a zeroed dial and twice for a pair.
#[test]
fn a_pair_sees_the_step_twice() {
    let of = |pair| {
        let trial = Trial {
            travel: nm(200_000),
            pair,
            ..Trial::default()
        };
        estimate_trials(&[trial; 2], gauge(10_000, 0, None), &[])
            .unwrap()
            .u_nm
    };
    close(of(true), of(false) * 2_f64.sqrt(), 1e-12);
}

/// Readings all alike on a coarse scale do not make a sure figure.
#[test]
fn readings_all_alike_are_no_surer_than_the_scale() {
    let found = dial::estimate(&[nm(200_000); 5], gauge(10_000, 0, None), &[]).unwrap();
    close(found.u_nm, 10_000.0 / 12_f64.sqrt(), 1e-12);
}

#[test]
fn what_does_not_move_has_no_float_and_no_figure() {
    let still = [Length::ZERO; 3];
    assert_eq!(
        dial::estimate(&still, gauge(10_000, 0, None), &[]),
        Err(MeasureError::NoFloat)
    );
}

#[test]
fn a_float_that_follows_the_pull_is_called() {
    let pulled = |slope: i64| -> String {
        let trials: Vec<Trial> = [(20, 100), (40, -100), (60, 100), (80, -100)]
            .map(|(pull, rough)| Trial {
                travel: nm(200_000 + slope * pull + rough),
                pull_n: Some(pull as f64),
                ..Trial::default()
            })
            .to_vec();
        let found = estimate_trials(&trials, gauge(1_000, 0, None), &[]).unwrap();
        serde_json::to_string(&found.notes).unwrap()
    };
    assert!(pulled(400).contains("flexes the case"));
    assert!(pulled(-400).contains("no shaft does that"));
    assert_eq!(pulled(0), "[]");
}

/// NIST statistical reference data, from memory: `NumAcc1` (10000001, 10000003, 10000002: mean
/// 10000002, deviation 1) and `NumAcc4` (10000000.2 and 1001 values about it by 0.1: mean
/// 10000000.2, deviation 0.1), here in whole nanometres.
#[test]
fn nists_hard_sums() {
    let first = [10_000_001, 10_000_003, 10_000_002].map(nm);
    let found = dial::estimate(&first, gauge(1, 0, None), &[]).unwrap();
    close(found.clearance_nm, 10_000_002.0, 1e-15);
    close(found.parts[0].u_nm * 3_f64.sqrt(), 1.0, 1e-12);
    let mut fourth = vec![nm(100_000_002)];
    for _ in 0..500 {
        fourth.extend([nm(100_000_001), nm(100_000_003)]);
    }
    let found = dial::estimate(&fourth, gauge(1, 0, None), &[]).unwrap();
    close(found.clearance_nm, 100_000_002.0, 1e-15);
    close(found.parts[0].u_nm * 1001_f64.sqrt(), 1.0, 1e-9);
}

// ---- feeler

fn tries(list: &[(i64, Fit)]) -> Vec<Try> {
    list.iter()
        .map(|(size, fit)| Try {
            size: nm(*size),
            fit: *fit,
        })
        .collect()
}

/// JCGM 100:2008, 4.3.7: known only to lie in a range of full width 2a, `u = a/√3`.
#[test]
fn a_bracket_is_a_rectangle_and_is_in_only_as_a_whole() {
    let set = gauge(10_000, 0, None);
    let of = |goes, refused| {
        let list = tries(&[(goes, Fit::Goes), (refused, Fit::Refused)]);
        judge(
            &feeler::estimate(&list, set, &[]).unwrap(),
            window(100_000, 200_000),
        )
    };
    assert_eq!(of(100_000, 200_000).call, Call::In);
    assert_eq!(of(90_000, 150_000).call, Call::TooClose);
    assert_eq!(of(50_000, 100_000).call, Call::Tight);
    assert_eq!(of(210_000, 250_000).call, Call::Loose);
    close(of(90_000, 150_000).chance, 50.0 / 60.0, 1e-9);
}

#[test]
fn the_chance_of_a_bracket_with_uncertain_ends_is_that_of_quadrature() {
    for case in reference()["brackets"].as_array().unwrap() {
        let f = |name: &str| case[name].as_f64().unwrap();
        let mut found = by_hand::estimate(&[(nm(0), nm(100_000))], &[]).unwrap();
        found.signs = true;
        found.bracket = Some(anvil_core::estimate::Bracket {
            from_nm: f("from"),
            to_nm: f("to"),
            u_ends_nm: f("u"),
        });
        #[allow(clippy::cast_possible_truncation)]
        let w = window(f("low") as i64, f("high") as i64);
        close(judge(&found, w).chance, f("chance"), 1e-6);
    }
}

#[test]
fn leaves_that_contradict_each_other_give_no_figure() {
    let set = gauge(10_000, 0, None);
    let crossed = tries(&[(150_000, Fit::Goes), (100_000, Fit::Refused)]);
    assert_eq!(
        feeler::estimate(&crossed, set, &[]),
        Err(FeelerError::GoAboveNoGo {
            goes: nm(150_000),
            refused: nm(100_000)
        }
        .into())
    );
    let only_goes = tries(&[(100_000, Fit::Goes)]);
    assert!(matches!(
        feeler::estimate(&only_goes, set, &[]),
        Err(MeasureError::Feeler(FeelerError::NothingRefused { .. }))
    ));
    // A leaf that takes up all the float is a reading of its size.
    let just = tries(&[(130_000, Fit::Just)]);
    let found = feeler::estimate(&just, set, &[]).unwrap();
    close(found.clearance_nm, 130_000.0, 1e-15);
    assert!(found.u_nm > 0.0);
}

/// All sizes that one or two leaves of a set make.
fn sizes(set: &[i64]) -> Vec<i64> {
    let mut all: Vec<i64> = set.to_vec();
    for (i, a) in set.iter().enumerate() {
        all.extend(set[..i].iter().map(|b| a + b));
    }
    all.sort_unstable();
    all.dedup();
    all
}

/// The verdict on a clearance somewhere in `[from, to)`, where it is one.
fn settled(from: i64, to: i64, low: i64, high: i64) -> bool {
    (from >= low && to <= high) || to <= low || from > high
}

/// The fewest tries at worst over every order of trying all sizes: the adviser's referee.
fn fewest(all: &[i64], from: i64, to: i64, low: i64, high: i64) -> u32 {
    if settled(from, to, low, high) {
        return 0;
    }
    (0..all.len())
        .map(|at| {
            1 + fewest(&all[at + 1..], all[at], to, low, high).max(fewest(
                &all[..at],
                from,
                all[at],
                low,
                high,
            ))
        })
        .min()
        .unwrap_or(0)
}

/// How many tries the adviser needs until it says that it is settled or cannot be.
fn advised(set: &[i64], clearance: i64, low: i64, high: i64) -> (u32, bool) {
    let leaves: Vec<Length> = set.iter().copied().map(nm).collect();
    let mut open = (Length::ZERO, None);
    for tried in 0..64 {
        match advise(open, &leaves, window(low, high), &[]) {
            Advice::Try { size_nm, .. } if size_nm.nm() <= clearance => open.0 = size_nm,
            Advice::Try { size_nm, .. } => open.1 = Some(size_nm),
            Advice::Settled => return (tried, true),
            Advice::CannotSettle => return (tried, false),
        }
    }
    panic!("the adviser never ends");
}

/// How many tries bisecting all sizes needs until the verdict is settled or nothing is left to try.
fn bisected(all: &[i64], clearance: i64, low: i64, high: i64) -> u32 {
    let (mut from, mut to, mut count) = (0, i64::MAX, 0);
    loop {
        let left: Vec<i64> = all
            .iter()
            .copied()
            .filter(|s| from < *s && *s < to)
            .collect();
        if settled(from, to, low, high) || left.is_empty() {
            return count;
        }
        let middle = left[left.len() / 2];
        count += 1;
        if middle <= clearance {
            from = middle;
        } else {
            to = middle;
        }
    }
}

proptest! {
    /// At worst over all clearances the adviser needs no more tries than bisecting the leaves, and
    /// exactly as few as the best order there is.
    #[test]
    fn the_adviser_needs_the_fewest_tries(
        mut set in prop::collection::btree_set(1_i64..40, 2..5),
        low in 1_i64..50,
        width in 0_i64..25,
    ) {
        set.insert(45);
        let set: Vec<i64> = set.into_iter().map(|s| s * 10_000).collect();
        let (low, high) = (low * 10_000 + 1, (low + width) * 10_000 + 5_000);
        let all = sizes(&set);
        let mut clearances: Vec<i64> = all.iter().flat_map(|s| [s - 1, *s, s + 1]).collect();
        clearances.extend([0, low - 1, low, low + 1, high, high + 1]);
        let worst = clearances.iter().map(|c| advised(&set, *c, low, high).0).max().unwrap();
        let bisecting = clearances.iter().map(|c| bisected(&all, *c, low, high)).max().unwrap();
        prop_assert!(worst <= bisecting, "{worst} tries, bisecting {bisecting}");
        // Its promise is kept, and where the set can settle it no order does better.
        let leaves: Vec<Length> = set.iter().copied().map(nm).collect();
        if let Advice::Try { at_most, .. } = advise((Length::ZERO, None), &leaves, window(low, high), &[]) {
            prop_assert!(worst <= at_most);
        }
        let near: Vec<i64> = all.iter().copied().filter(|s| (s - low).abs().min((s - high).abs()) < 40_000).collect();
        if near.len() <= 7 && near.len() == all.len() {
            prop_assert!(worst <= fewest(&all, 0, i64::MAX, low, high));
        }
    }
}

// ---- depth ring

/// Common practice, no source: the average of six, 1.848. Least squares by numpy's `lstsq`.
#[test]
fn the_ring_is_that_of_a_general_library() {
    for case in reference()["rings"].as_array().unwrap() {
        let of = u16::try_from(case["of"].as_u64().unwrap()).unwrap();
        let whole = |name: &str| -> Vec<i64> {
            let list = case[name].as_array().unwrap();
            list.iter().map(|v| v.as_i64().unwrap()).collect()
        };
        let depths: Vec<Depth> = whole("places")
            .into_iter()
            .zip(whole("depths"))
            .map(|(place, depth)| Depth {
                place: u16::try_from(place).unwrap(),
                of,
                depth: nm(depth + 10_000_000),
                bar: nm(10_000_000),
            })
            .collect();
        let (found, ring) = ring::estimate(&depths, gauge(1_000, 0, Some(2_000.0)), &[]).unwrap();
        close(found.clearance_nm, case["mean"].as_f64().unwrap(), 1e-9);
        close(ring.rise_nm, case["rise"].as_f64().unwrap(), 1e-7);
        assert_eq!(ring.missing.len(), usize::from(of) - depths.len());
    }
}

fn circle(depths: &[i64]) -> Vec<Depth> {
    let of = u16::try_from(depths.len()).unwrap();
    (0..of)
        .map(|place| Depth {
            place,
            of,
            depth: nm(depths[usize::from(place)]),
            bar: Length::ZERO,
        })
        .collect()
}

proptest! {
    /// Neither a tilt nor the order of places moves the mean, where they are equally spaced.
    #[test]
    fn tilt_and_order_do_not_move_the_mean(
        n in 4_usize..16, m in 500_000.0..5_000_000.0_f64, a in -50_000.0..50_000.0_f64,
        b in -50_000.0..50_000.0_f64, turn in 0_usize..16,
    ) {
        let at = |i: usize| std::f64::consts::TAU * i as f64 / n as f64;
        #[allow(clippy::cast_possible_truncation)]
        let depths: Vec<i64> = (0..n).map(|i| (m + a * at(i).cos() + b * at(i).sin()).round() as i64).collect();
        let mut turned = depths.clone();
        turned.rotate_left(turn % n);
        let of = |d: &[i64]| ring::estimate(&circle(d), gauge(1_000, 0, None), &[]).unwrap().0.clearance_nm;
        prop_assert!((of(&depths) - m).abs() < 1.0);
        prop_assert!((of(&depths) - of(&turned)).abs() < 1e-6);
    }
}

#[test]
fn a_depth_that_does_not_belong_stands_out() {
    let mut depths = vec![
        1_850_000, 1_852_000, 1_851_000, 1_849_000, 1_850_500, 1_851_500, 1_849_500, 1_850_000,
    ];
    let stray = |d: &[i64]| {
        let (_, ring) = ring::estimate(&circle(d), gauge(1_000, 0, None), &[]).unwrap();
        ring.places.iter().map(|p| p.stray).collect::<Vec<_>>()
    };
    assert!(stray(&depths).iter().all(|s| !s));
    depths[3] = 1_890_000;
    let found = stray(&depths);
    assert!(
        found[3] && found.iter().filter(|s| **s).count() == 1,
        "{found:?}"
    );
}

#[test]
fn depths_that_cannot_be_are_named() {
    let depth = |place, of, depth, bar| Depth {
        place,
        of,
        depth: nm(depth),
        bar: nm(bar),
    };
    let of = |d: Depth| ring::estimate(&[d], gauge(1_000, 0, Some(1_000.0)), &[]).map(|_| ());
    assert_eq!(
        of(depth(6, 6, 1, 0)),
        Err(RingError::BadPlace { place: 7, of: 6 }.into())
    );
    assert!(matches!(
        of(depth(0, 6, 5_000_000, 6_000_000)),
        Err(MeasureError::Ring(RingError::BarTooThick { .. }))
    ));
    // One place alone: no tilt can be told, and the gauge's scatter stands.
    assert!(of(depth(0, 6, 5_000_000, 0)).is_ok());
}

// ---- stack sum

#[test]
fn a_stack_adds_up_as_a_general_library_has_it() {
    for case in reference()["stacks"].as_array().unwrap() {
        let terms: Vec<Term> = case["terms"]
            .as_array()
            .unwrap()
            .iter()
            .map(|t| Term {
                what: "term".into(),
                opens: t["opens"].as_bool().unwrap(),
                length_nm: nm(t["length"].as_i64().unwrap()),
                tolerance_nm: Some(nm(t["tolerance"].as_i64().unwrap())),
                measured_nm: Vec::new(),
            })
            .collect();
        let (found, sum) = stack::estimate(&terms, gauge(1_000, 0, None), &[]).unwrap();
        close(found.clearance_nm, case["sum"].as_f64().unwrap(), 1e-12);
        close(found.u_nm, case["u"].as_f64().unwrap(), 1e-12);
        close(sum.terms.iter().map(|t| t.share).sum(), 1.0, 1e-12);
        assert!(sum.worst_high_nm - sum.worst_low_nm > 2.0 * sum.expanded_nm * 0.5);
    }
}

#[test]
fn a_term_measured_counts_in_place_of_the_sheets_figure() {
    let mut terms = vec![
        Term {
            what: "bore".into(),
            opens: true,
            length_nm: nm(20_000_000),
            tolerance_nm: Some(nm(30_000)),
            measured_nm: Vec::new(),
        },
        Term {
            what: "race".into(),
            opens: false,
            length_nm: nm(19_500_000),
            tolerance_nm: None,
            measured_nm: Vec::new(),
        },
    ];
    let micrometer = gauge(1_000, 2_000, Some(1_000.0));
    let of = |terms: &[Term]| stack::estimate(terms, micrometer, &[]);
    assert_eq!(
        of(&terms).unwrap_err(),
        StackError::NoTolerance {
            what: "race".into()
        }
        .into()
    );
    terms[1].measured_nm = vec![nm(19_480_000), nm(19_482_000)];
    let (found, sum) = of(&terms).unwrap();
    close(found.clearance_nm, 519_000.0, 1e-15);
    assert!(sum.terms[1].measured && sum.terms[1].share < 0.05);
    terms[0].tolerance_nm = Some(Length::ZERO);
    assert!(matches!(
        of(&terms),
        Err(MeasureError::Stack(StackError::BadTolerance { .. }))
    ));
}

// ---- known shim

fn with(shim: i64, float: i64) -> WithShim {
    WithShim {
        shim: thou(shim),
        float: thou(float),
    }
}

/// Common practice, no source: 3 thou in with 1 thou float is 2 thou preload; 5 in with 9 float says
/// 4 float without, and measuring none without is a contradiction.
#[test]
fn two_set_ups_must_agree() {
    let dial = gauge(2_540, 0, Some(1_000.0));
    let of = |taken: &[WithShim]| known_shim::estimate(taken, dial, 0.0, &[]);
    let (found, set_ups) = of(&[with(3, 1), with(3, 1), with(5, 3)]);
    close(found.unwrap().clearance_nm, -2.0 * 25_400.0, 1e-12);
    assert_eq!(set_ups.len(), 2);
    let (contradiction, kept) = of(&[with(5, 9), with(0, 0)]);
    let why = contradiction.unwrap_err();
    assert!(matches!(
        why,
        MeasureError::KnownShim(KnownShimError::Contradiction { .. })
    ));
    assert!(why.to_string().contains("burr"), "{why}");
    assert_eq!(kept.len(), 2, "both set-ups are kept");
    // Measuring none without proves only c ≤ 0, which a preload agrees with.
    assert!(of(&[with(3, 1), with(0, 0)]).0.is_ok());
    assert!(matches!(
        of(&[with(3, 0)]).0,
        Err(MeasureError::KnownShim(KnownShimError::StillTight { .. }))
    ));
    assert_eq!(of(&[with(0, 0)]).0, Err(MeasureError::NoFloat));
}

proptest! {
    /// A simulated box: with no shim it moves c0; a shim of s0 leaves c0 − s0, which a known shim on
    /// the opening side finds, whether that is float or preload.
    #[test]
    fn known_shim_and_no_shim_agree(c0 in 200_000_i64..2_000_000, s0 in 100_000_i64..2_100_000) {
        let dial = gauge(1_000, 1_000, Some(1_000.0));
        let left = c0 - s0;
        let a = (-left).max(0) + 50_000;
        let without = dial::estimate(&[nm(c0); 3], dial, &[]).unwrap();
        let taken = [WithShim { shim: nm(a), float: nm(left + a) }; 3];
        let with = known_shim::estimate(&taken, dial, 0.0, &[]).0.unwrap();
        prop_assert!((without.clearance_nm - s0 as f64 - with.clearance_nm).abs() < 1e-6);
    }
}

// ---- turning torque

#[test]
fn torques_are_those_of_a_general_library() {
    for case in reference()["torques"].as_array().unwrap() {
        let f = |name: &str| case[name].as_f64().unwrap();
        let readings: Vec<Torque> = case["readings"]
            .as_array()
            .unwrap()
            .iter()
            .map(|r| Torque(r.as_f64().unwrap()))
            .collect();
        let wrench = TorqueGauge {
            resolution_n_m: f("resolution"),
            permissible_error_n_m: f("error"),
            repeatability_n_m: None,
        };
        let open = TorqueEnds {
            low_n_m: Some(0.1),
            high_n_m: None,
        };
        let found = torque::estimate(&readings, wrench, open).unwrap();
        close(found.torque_n_m, f("mean"), 1e-12);
        close(found.u_n_m, f("u"), 1e-12);
        close(found.dof.unwrap(), f("dof"), 1e-9);
        close(found.expanded_n_m, f("expanded"), 1e-6);
    }
}

/// 1 lbf·ft = 1.3557… N·m: 0.453 592 37 kg × 9.806 65 m/s² × 0.3048 m, all exact (international
/// pound and foot of 1959, standard gravity).
#[test]
fn the_pound_foot_is_exact() {
    close(N_M_PER_LBF_FT, 0.453_592_37 * 9.806_65 * 0.304_8, 1e-15);
    let torque = |text: &str| match (Entry::Torque {
        torque: text.into(),
    })
    .read(Unit::Mm)
    {
        Ok(Taken::Torque { torque_n_m }) => torque_n_m.0,
        other => panic!("{other:?}"),
    };
    close(torque("10 lbf·ft"), 13.558_179_483_314_004, 1e-12);
    close(torque("12 in-lb"), torque("1 ft.lb"), 1e-12);
    close(torque("1,5 N·m"), 1.5, 1e-12);
    close(torque("10 kgf cm"), 0.980_665, 1e-12);
    for bad in ["", "heavy", "0", "-1", "3 furlong", "1e9", "20000"] {
        let refused = Entry::Torque { torque: bad.into() }.read(Unit::Mm);
        assert_eq!(refused.unwrap_err().field, "torque", "{bad}");
    }
}

#[test]
fn turning_too_hard_is_tight() {
    let wrench = TorqueGauge {
        resolution_n_m: 0.05,
        permissible_error_n_m: 0.02,
        repeatability_n_m: Some(0.02),
    };
    let ends = TorqueEnds {
        low_n_m: Some(1.0),
        high_n_m: Some(2.0),
    };
    let of = |t: f64| {
        torque::estimate(&[Torque(t); 3], wrench, ends)
            .unwrap()
            .call
    };
    assert_eq!(
        [of(0.5), of(1.5), of(2.5), of(2.0)],
        [Call::Loose, Call::In, Call::Tight, Call::TooClose]
    );
}

// ---- by hand, compared, adjusted, judged

#[test]
fn fingers_are_kept_wide_and_sign_nothing() {
    let felt = by_hand::estimate(&[(thou(6), thou(8))], &[]).unwrap();
    assert!(!felt.signs && felt.u_nm >= 20_000.0 / 3_f64.sqrt());
    let about = by_hand::estimate(&[(thou(6), thou(6))], &[]).unwrap();
    assert!(about.u_nm > felt.u_nm, "a bare figure is a wider guess");
    assert!(by_hand::estimate(&[(thou(8), thou(6))], &[]).is_err());
}

#[test]
fn two_ways_agree_within_what_both_explain() {
    let dial = dial::estimate(&[nm(200_000); 3], gauge(10_000, 5_000, Some(3_000.0)), &[]).unwrap();
    let leaves = |goes, refused| {
        let list = tries(&[(goes, Fit::Goes), (refused, Fit::Refused)]);
        feeler::estimate(&list, gauge(10_000, 3_000, None), &[]).unwrap()
    };
    assert!(compare(&dial, &leaves(180_000, 210_000)).agree);
    assert!(!compare(&dial, &leaves(250_000, 260_000)).agree);
}

#[test]
fn what_differs_from_the_final_build_moves_every_way() {
    let gasket = [Adjustment {
        what: "gasket".into(),
        by: nm(80_000),
        tolerance: nm(10_000),
    }];
    let coarse = gauge(10_000, 0, Some(2_000.0));
    let leaves = tries(&[(100_000, Fit::Goes), (120_000, Fit::Refused)]);
    let plain = feeler::estimate(&leaves, coarse, &[]).unwrap();
    let moved = feeler::estimate(&leaves, coarse, &gasket).unwrap();
    close(moved.clearance_nm, plain.clearance_nm + 80_000.0, 1e-15);
    close(moved.bracket.unwrap().from_nm, 180_000.0, 1e-15);
    assert!(moved.parts.iter().any(|p| p.from == Origin::Adjustment));
    let depth = circle(&[100_000; 6]);
    let (ring, _) = ring::estimate(&depth, coarse, &gasket).unwrap();
    assert!((ring.clearance_nm - 180_000.0).abs() < 1e-6);
    // The adviser sees the limits as they are in the trial build.
    let leaf = [5, 10, 15, 20].map(|h| nm(h * 10_000));
    let settled = advise(
        (nm(100_000), Some(nm(150_000))),
        &leaf,
        window(180_000, 230_000),
        &gasket,
    );
    assert_eq!(settled, Advice::Settled);
}

/// ISO 14253-1: conformity is proved inside the limits less the expanded uncertainty, non-conformity
/// outside them plus it; between, neither is.
#[test]
fn the_guard_band_of_iso_14253_1() {
    let sure = gauge(1_000, 0, Some(5_000.0));
    let of = |mean: i64| {
        let found = dial::estimate(&[nm(mean); 4], sure, &[]).unwrap();
        (judge(&found, window(100_000, 200_000)), found.expanded_nm())
    };
    let (_, u) = of(150_000);
    #[allow(clippy::cast_possible_truncation)]
    let u = u.ceil() as i64;
    assert_eq!(of(100_000 + u + 10).0.call, Call::In);
    assert_eq!(of(100_000 + u - 10).0.call, Call::TooClose);
    assert_eq!(of(100_000 - u + 10).0.call, Call::TooClose);
    assert_eq!(of(100_000 - u - 10).0.call, Call::Tight);
    let close = of(100_000 + u * 2 / 3).0;
    assert!(matches!(close.settled_by, Some(SettledBy::MoreReadings { more }) if more > 0));
    let one = close.one_more.unwrap();
    assert!(one.wrong_then < one.wrong_now && one.wrong_now < 0.5);
}

// ---- a gauge's lines

proptest! {
    /// However the bytes come cut up, the same readings are heard.
    #[test]
    fn lines_are_put_together(cuts in prop::collection::vec(1_usize..9, 1..40)) {
        let said = b"+0.123 mm\r\n-0.5 thou\n#!\n\n0.10 mm\n".repeat(3);
        let whole = Lines::default().hear(&said);
        let (mut lines, mut at, mut readings, mut garbled) = (Lines::default(), 0, 0, 0);
        let mut newest = None;
        for cut in cuts.iter().cycle() {
            let end = (at + cut).min(said.len());
            let heard = lines.hear(&said[at..end]);
            readings += heard.readings;
            garbled += heard.garbled;
            newest = heard.newest.or(newest);
            at = end;
            if at == said.len() { break }
        }
        prop_assert_eq!((readings, garbled, newest), (whole.readings, whole.garbled, whole.newest));
        prop_assert_eq!((readings, garbled), (9, 3));
    }

    /// No bytes make it panic, and what is no reading is counted, not believed.
    #[test]
    fn any_bytes_are_survived(bytes in prop::collection::vec(any::<u8>(), 0..600)) {
        let heard = Lines::default().hear(&bytes);
        let ends = bytes.iter().filter(|b| matches!(b, b'\n' | b'\r')).count() as u64;
        prop_assert!(heard.readings + heard.garbled <= ends);
    }
}

#[test]
fn a_line_without_a_unit_or_without_an_end_is_no_reading() {
    let mut lines = Lines::default();
    let heard = lines.hear(b"0.12\n0.12 mm");
    assert_eq!((heard.newest, heard.garbled), (None, 1));
    assert!(heard.why.unwrap().contains("unit is missing"));
    let flood = lines.hear("9".repeat(10_000).as_bytes());
    assert_eq!(flood.readings + flood.garbled, 0);
    assert_eq!(lines.hear(b"\n").garbled, 1);
    assert_eq!(lines.hear(b"1 mm\n").readings, 1);
}

// ---- what is typed

#[test]
fn each_field_that_is_wrong_is_named() {
    let text = str::to_owned;
    let depth = |place, of, depth: &str, bar: &str| Entry::Depth {
        place,
        of,
        depth: text(depth),
        bar: text(bar),
    };
    let pair = |home: &str, out: &str| Entry::Pair {
        home: text(home),
        out: text(out),
        tilt: String::new(),
        pull: String::new(),
    };
    let travel = |travel: &str, tilt: &str, pull: &str| Entry::Travel {
        travel: text(travel),
        tilt: text(tilt),
        pull: text(pull),
    };
    let leaf = |leaves: &str| Entry::Leaf {
        leaves: text(leaves),
        fit: Fit::Goes,
    };
    let shim = |shim: &str, float: &str| Entry::KnownShim {
        shim: text(shim),
        float: text(float),
    };
    let pull = |force: &str, radius: &str| Entry::Pull {
        force: text(force),
        radius: text(radius),
    };
    let felt = |from: &str, to: &str| Entry::ByHand {
        from: text(from),
        to: text(to),
    };
    for (entry, field) in [
        (travel("", "", ""), "travel"),
        (travel("200", "", ""), "travel"),
        (travel("0.2", "80", ""), "tilt"),
        (travel("0.2", "", "hard"), "pull"),
        (pair("1.2", "1.0"), "out"),
        (pair("x", "1.0"), "home"),
        (leaf("0.1 + "), "leaves"),
        (leaf("0.1+0.1+0.1+0.1+0.1"), "leaves"),
        (leaf("0"), "leaves"),
        (depth(7, 6, "9", ""), "place"),
        (depth(1, 2, "9", ""), "place"),
        (depth(1, 6, "9", "10"), "depth"),
        (depth(1, 6, "9", "ten"), "bar"),
        (shim("-3 thou", "1 thou"), "shim"),
        (shim("3 thou", ""), "float"),
        (pull("20", "0"), "radius"),
        (pull("", "75"), "force"),
        (felt("8 thou", "6 thou"), "to"),
        (
            Entry::Term {
                term: 1,
                length: text("0"),
            },
            "length",
        ),
    ] {
        assert_eq!(entry.read(Unit::Mm).unwrap_err().field, field, "{entry:?}");
    }
    let Taken::Leaf { leaves_nm, .. } = leaf("0.10 + 2 thou").read(Unit::Mm).unwrap() else {
        panic!()
    };
    assert_eq!(leaves_nm, [nm(100_000), nm(50_800)]);
    let Taken::Pull { force_n, radius_nm } = pull("2 kgf", "75").read(Unit::Mm).unwrap() else {
        panic!()
    };
    close(force_n.at(radius_nm).0, 2.0 * 9.806_65 * 0.075, 1e-12);
}
