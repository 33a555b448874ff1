//! Each method against arithmetic done another way: closed forms, corners tried one by one, fits of another kind.

use anvil_arithmetic::measure::depth_ring::{self, BarOn, DepthReading};
use anvil_arithmetic::measure::dial::{TravelInput, Trial, estimate_trials};
use anvil_arithmetic::measure::feeler::{self, Fit, Try};
use anvil_arithmetic::measure::stack_sum::{self, Term};
use anvil_arithmetic::measure::turning_torque::{self, TorqueEnds, TorqueGauge};
use anvil_arithmetic::measure::{Adjustment, MeasureError, Method, Reading, ReadingInput, measure};
use anvil_arithmetic::measure::{Basis, fields::Taken};
use anvil_arithmetic::uncertainty::estimate::Source;
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::units::force::Torque;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::Call;
use proptest::prelude::*;

fn nm(nm: i64) -> Length {
    Length::from_nm(nm)
}

fn gauge(step: i64, error: i64) -> Gauge {
    let known = Repeatability {
        s_nm: 2_000.0,
        dof: None,
    };
    Gauge::new(nm(step), nm(error), Some(known)).unwrap()
}

/// A plunger that leans reads long by one over the cosine: at 60° it would read double (plane trigonometry).
#[test]
fn a_leaning_plunger_reads_long() {
    let trial = |tilt_deg| Trial {
        travel: nm(200_000),
        tilt_deg,
        ..Trial::default()
    };
    for (tilt, true_nm) in [(0.0, 200_000.0), (30.0, 173_205.08), (45.0, 141_421.36)] {
        let found = estimate_trials(&[trial(tilt)], gauge(1_000, 1_000), &[]).unwrap();
        assert!((found.clearance_nm - true_nm).abs() < 0.01, "{tilt}°");
    }
    assert_eq!(
        estimate_trials(&[trial(0.0), trial(60.0)], gauge(1_000, 1_000), &[]),
        Err(MeasureError::BadTilt { trial: 2 })
    );
}

/// Turned by quarters, float and rock are told apart: the mean where all quarters have as many, the fit where they have not.
#[test]
fn a_shaft_that_rocks_is_turned_by_quarters() {
    let trials = |travels: &[(u8, i64)]| -> Vec<Trial> {
        let trial = |(turned, um): &(u8, i64)| Trial {
            travel: nm(um * 1_000),
            turned: Some(*turned),
            ..Trial::default()
        };
        travels.iter().map(trial).collect()
    };
    let found = |travels: &[(u8, i64)]| {
        estimate_trials(&trials(travels), gauge(1_000, 1_000), &[]).unwrap()
    };
    let said = |travels: &[(u8, i64)], words: &str| {
        let notes = found(travels).notes;
        notes.iter().any(|n| format!("{n:?}").contains(words))
    };
    // 0.20 of float that rocks by ± 0.03: exactly on the curve.
    let even = [(0, 230), (1, 200), (2, 170), (3, 200)];
    assert!((found(&even).clearance_nm - 200_000.0).abs() < 1e-6);
    assert!(said(&even, "It rocks by"));
    // The first quarter taken three times over: the plain mean would be 0.216.
    let uneven = [(0, 230), (0, 230), (0, 230), (1, 200), (2, 170), (3, 200)];
    assert!((found(&uneven).clearance_nm - 200_000.0).abs() < 1e-6);
    // What the gauge's own scatter explains is no rock.
    assert!(!said(
        &[(0, 201), (1, 200), (2, 199), (3, 201)],
        "It rocks by"
    ));
    // Too few quarters, or some that do not say: the plain mean, and what would tell.
    assert!((found(&[(0, 230), (2, 170)]).clearance_nm - 200_000.0).abs() < 1e-6);
    assert!(said(&[(0, 230), (2, 170)], "three quarters"));
    let mut some = trials(&even);
    some[3].turned = None;
    let plain = estimate_trials(&some, gauge(1_000, 1_000), &[]).unwrap();
    assert!(
        plain
            .notes
            .iter()
            .any(|n| format!("{n:?}").contains("do not say"))
    );
    // Without a gauge whose scatter is known, three travels that lie on any such curve are their mean.
    let unknown = Gauge::new(nm(1_000), nm(1_000), None).unwrap();
    let three = trials(&even[..3]);
    let mean = estimate_trials(&three, unknown, &[]).unwrap();
    assert!((mean.clearance_nm - 200_000.0).abs() < 1e-6 && mean.dof.is_some());
    // A fifth quarter is none.
    let typed = TravelInput {
        travel: "0.2".into(),
        tilt: String::new(),
        pull: String::new(),
        turned: Some(4),
    };
    assert_eq!(
        ReadingInput::from(typed).read(Unit::Mm).unwrap_err().field,
        "turned"
    );
}

/// A scale's step counts once for a travel off a zeroed dial and twice for a pair: r/√12 and √2·r/√12
/// (JCGM 100:2008, F.2.2.1).
#[test]
fn a_pair_sees_the_step_twice() {
    let u = |pair| {
        let trial = Trial {
            travel: nm(200_000),
            pair,
            ..Trial::default()
        };
        estimate_trials(&[trial; 4], gauge(10_000, 0), &[])
            .unwrap()
            .u_nm
    };
    let own = 2_000.0_f64.powi(2) / 4.0;
    let step = 10_000.0_f64.powi(2) / 12.0;
    assert!((u(false) - (own + step).sqrt()).abs() < 1e-9);
    assert!((u(true) - (own + 2.0 * step).sqrt()).abs() < 1e-9);
}

#[test]
fn a_pull_that_flexes_the_case_is_said() {
    let trial = |newtons: f64, um: i64| Trial {
        travel: nm(um * 1_000),
        pull_n: Some(newtons),
        ..Trial::default()
    };
    let notes = |trials: &[Trial]| {
        let found = estimate_trials(trials, gauge(1_000, 1_000), &[]).unwrap();
        found.notes.len()
    };
    // A micrometre a newton, without scatter to speak of; then scatter and no slope.
    let follows = [
        trial(10.0, 110),
        trial(20.0, 121),
        trial(30.0, 130),
        trial(40.0, 140),
    ];
    assert_eq!(notes(&follows), 1);
    let scatters = [
        trial(10.0, 112),
        trial(20.0, 108),
        trial(30.0, 111),
        trial(40.0, 110),
    ];
    assert_eq!(notes(&scatters), 0);
    assert_eq!(notes(&follows[..2]), 0, "two tell no slope");
}

/// Where nothing is known of the gauge's scatter, what is said is what would tell it.
#[test]
fn readings_that_say_nothing_of_their_own_scatter_say_what_would() {
    let unknown = Gauge::new(nm(1_000), nm(3_000), None).unwrap();
    let depth = |place, um: i64| DepthReading {
        place,
        of: 6,
        depth_nm: nm(um * 1_000),
        bar_nm: Length::ZERO,
        bar_on: BarOn::Face,
    };
    let three = [depth(1, 1_850), depth(3, 1_846), depth(5, 1_849)];
    let why = depth_ring::estimate(&three, unknown, &[]).unwrap_err();
    assert!(why.to_string().contains("fourth place"), "{why}");
    let four = [three.as_slice(), &[depth(2, 1_851)]].concat();
    assert!(depth_ring::estimate(&four, unknown, &[]).is_ok());
    // One depth lies on no plane; what it wants is a second.
    let why = depth_ring::estimate(&three[..1], unknown, &[]).unwrap_err();
    assert!(why.to_string().contains("second reading"), "{why}");

    let term = |measured: &[i64]| Term {
        what: "bearing".into(),
        opens: true,
        length_nm: nm(18_000_000),
        tolerance_nm: Some(nm(50_000)),
        measured_nm: measured.iter().map(|um| nm(um * 1_000)).collect(),
        by: Vec::new(),
    };
    let why = stack_sum::estimate(&[term(&[18_010])], unknown, &[]).unwrap_err();
    assert!(why.to_string().contains("bearing") && why.to_string().contains("second time"));
    let twice = stack_sum::estimate(&[term(&[18_010, 18_014])], unknown, &[])
        .unwrap()
        .0;
    assert!(
        twice
            .parts
            .iter()
            .any(|p| p.from == Source::Scatter && p.dof == Some(1.0))
    );
    let stated = Repeatability {
        s_nm: 2_000.0,
        dof: None,
    };
    let known = Gauge::new(nm(1_000), nm(3_000), Some(stated)).unwrap();
    assert!(stack_sum::estimate(&[term(&[18_010])], known, &[]).is_ok());
    // Measurements of one part that scatter more than the micrometer does: their own scatter counts.
    let wild = stack_sum::estimate(&[term(&[18_010, 18_070, 18_030])], known, &[])
        .unwrap()
        .0;
    assert!(wild.parts.iter().any(|p| p.from == Source::Scatter));
}

proptest! {
    /// At equally spaced places the least-squares ring is the mean and the first harmonic (orthogonality of the
    /// discrete Fourier basis).
    #[test]
    fn a_whole_ring_is_its_mean_and_first_harmonic(
        net in prop::collection::vec(17_900_000_i64..18_100_000, 3..25),
        bar in 0_i64..30_000_000,
    ) {
        let of = u16::try_from(net.len()).unwrap();
        let depths: Vec<DepthReading> = (1..).zip(&net)
            .map(|(place, d)| DepthReading { place, of, depth_nm: nm(d + bar), bar_nm: nm(bar), bar_on: BarOn::Face })
            .collect();
        let (estimate, ring) = depth_ring::estimate(&depths, gauge(1_000, 3_000), &[]).unwrap();
        let n = f64::from(of);
        let mean = net.iter().sum::<i64>() as f64 / n;
        let turn = |i: usize| std::f64::consts::TAU * i as f64 / n;
        let wave = |of_angle: fn(f64) -> f64| -> f64 {
            2.0 / n * net.iter().enumerate().map(|(i, d)| (*d as f64 - mean) * of_angle(turn(i))).sum::<f64>()
        };
        let (a, b) = (wave(f64::cos), wave(f64::sin));
        prop_assert!((estimate.clearance_nm - mean).abs() < 0.5);
        prop_assert!((ring.mean_nm - mean).abs() < 0.5);
        prop_assert!((ring.rise_nm - 2.0 * a.hypot(b)).abs() < 1.0);
        prop_assert!(ring.missing.is_empty() && ring.places.len() == net.len());
    }

    /// The worst case of a stack is the worst of all its corners, and no term's share is lost.
    #[test]
    fn the_worst_case_is_the_worst_corner(
        terms in prop::collection::vec((any::<bool>(), 1_000_000_i64..40_000_000, 1_000_i64..60_000), 1..8),
    ) {
        let stack: Vec<Term> = terms.iter().map(|(opens, length, tolerance)| Term {
            what: "part".into(), opens: *opens, length_nm: nm(*length), tolerance_nm: Some(nm(*tolerance)),
            measured_nm: Vec::new(),
            by: Vec::new(),
        }).collect();
        let (estimate, sum) = stack_sum::estimate(&stack, gauge(1_000, 1_000), &[]).unwrap();
        let corners = (0..1_u32 << terms.len()).map(|corner| -> i64 {
            terms.iter().enumerate().map(|(i, (opens, length, tolerance))| {
                let side = if corner >> i & 1 == 1 { *tolerance } else { -tolerance };
                if *opens { length + side } else { -(length + side) }
            }).sum()
        });
        let (low, high) = corners.fold((i64::MAX, i64::MIN), |(l, h), c| (l.min(c), h.max(c)));
        prop_assert!((sum.worst_low_nm - low as f64).abs() < 1e-3);
        prop_assert!((sum.worst_high_nm - high as f64).abs() < 1e-3);
        // Rectangular, t/√3 each, root-sum-square (JCGM 100:2008, 4.3.7 and 5.1.2).
        let variance: f64 = terms.iter().map(|t| (t.2 as f64).powi(2) / 3.0).sum();
        prop_assert!((estimate.u_nm - variance.sqrt()).abs() < 1e-6 * estimate.u_nm);
        prop_assert!((sum.terms.iter().map(|t| t.share).sum::<f64>() - 1.0).abs() < 1e-9);
    }

    /// What one gauge is off by, it is off by in every term that it measured, with the sign that the term has in the sum
    /// (JCGM 100:2008, 5.2.2); another gauge is off by itself.
    #[test]
    fn terms_of_one_gauge_are_off_alike(
        terms in prop::collection::vec((any::<bool>(), 0_usize..2), 1..9),
        error in 1_000_i64..20_000,
    ) {
        let known = Repeatability { s_nm: 1_500.0, dof: None };
        let gauge = Gauge::new(nm(1_000), nm(error), Some(known)).unwrap();
        let stack: Vec<Term> = terms.iter().map(|(opens, by)| Term {
            what: "part".into(), opens: *opens, length_nm: nm(9_000_000), tolerance_nm: None,
            measured_nm: vec![nm(9_001_000)],
            by: vec![*by],
        }).collect();
        let (estimate, sum) = stack_sum::estimate(&stack, gauge, &[]).unwrap();
        let each = 1_500_f64.powi(2) + 1_000_f64.powi(2) / 12.0;
        let counts = [0, 1].map(|gauge| {
            terms.iter().filter(|t| t.1 == gauge).map(|t| if t.0 { 1.0 } else { -1.0 }).sum::<f64>()
        });
        let of_errors: f64 = counts.iter().map(|n| n * n * (error as f64).powi(2) / 3.0).sum();
        let u = (terms.len() as f64 * each + of_errors).sqrt();
        prop_assert!((estimate.u_nm - u).abs() < 1e-6 * u, "{} and {u}", estimate.u_nm);
        prop_assert!((sum.terms.iter().map(|t| t.share).sum::<f64>() - 1.0).abs() < 1e-9);
        prop_assert_eq!(estimate.gauge_turned, counts.iter().sum::<f64>() < 0.0);
        let half = counts.iter().map(|n| n * n).sum::<f64>().sqrt() * error as f64;
        prop_assert!((estimate.gauge_error_nm().abs() - half).abs() < 1e-6);
    }

    /// A bracket is its two leaves, whatever else was tried outside them.
    #[test]
    fn a_bracket_is_its_two_innermost_leaves(sizes in prop::collection::btree_set(1_i64..60, 2..10), at in 0..9_usize) {
        let sizes: Vec<i64> = sizes.into_iter().collect();
        let split = 1 + at % (sizes.len() - 1);
        let tries: Vec<Try> = sizes.iter().enumerate().map(|(i, s)| Try {
            size: nm(s * 10_000), fit: if i < split { Fit::Goes } else { Fit::Refused },
        }).collect();
        let found = feeler::estimate(&tries, gauge(10_000, 0), &[]).unwrap();
        let (goes, refused) = (sizes[split - 1] as f64 * 1e4, sizes[split] as f64 * 1e4);
        prop_assert!((found.clearance_nm - f64::midpoint(goes, refused)).abs() < 1e-9);
        // A uniform spread's standard deviation (JCGM 100:2008, 4.3.7).
        prop_assert!((found.u_nm - (refused - goes) / 12_f64.sqrt()).abs() < 1e-6);
    }

    /// Differences between trial and final build move every method alike, and add their limits root-sum-square.
    #[test]
    fn an_adjustment_moves_every_method_by_itself(by in -90_000_i64..90_000, tolerance in 0_i64..30_000) {
        let adjustment = [Adjustment { what: "gasket".into(), by: nm(by), tolerance: nm(tolerance) }];
        let taken: Vec<(Method, Vec<&str>)> = vec![
            (Method::DialTravel, vec![r#"{"kind":"travel","travel":"0.21"}"#, r#"{"kind":"travel","travel":"0.22"}"#]),
            (Method::Feeler, vec![r#"{"kind":"leaf","leaves":"0.2","fit":"goes"}"#, r#"{"kind":"leaf","leaves":"0.25","fit":"refused"}"#]),
            (Method::DepthFromBar, vec![r#"{"kind":"depth","place":1,"of":3,"depth":"20"}"#, r#"{"kind":"depth","place":2,"of":3,"depth":"20.1"}"#]),
            (Method::KnownShim, vec![r#"{"kind":"known_shim","shim":"0.1","float":"0.05"}"#]),
            (Method::ByHand, vec![r#"{"kind":"by_hand","from":"0.1","to":"0.2"}"#]),
        ];
        for (method, typed) in taken {
            let readings: Vec<Reading> = typed.iter()
                .map(|t| serde_json::from_str::<ReadingInput>(t).unwrap().read_for(method, Unit::Mm).unwrap())
                .collect();
            let with = |adjustments: &[Adjustment]| {
                let basis = Basis {
                    gauge: Some(gauge(1_000, 3_000)), adjustments,
                    by: &[],
..Basis::default()
};
                measure(method, &readings, &basis).estimate.unwrap()
            };
            let (plain, moved) = (with(&[]), with(&adjustment));
            prop_assert!((moved.clearance_nm - plain.clearance_nm - by as f64).abs() < 1e-6, "{method:?}");
            let u = plain.u_nm.hypot(tolerance as f64 / 3_f64.sqrt());
            prop_assert!((moved.u_nm - u).abs() < 1e-6 * u, "{method:?}");
        }
    }

    /// More torque is tighter, and a torque in its window by more than its doubt is in.
    #[test]
    fn a_torque_that_is_too_high_is_tight(hundredths in 1_i32..500) {
        let torque = f64::from(hundredths) / 100.0;
        let wrench = TorqueGauge { resolution_n_m: 0.01, permissible_error_n_m: 0.01, repeatability_n_m: Some(0.01) };
        let window = TorqueEnds { low_n_m: Some(1.0), high_n_m: Some(2.5) };
        let found = turning_torque::estimate(&[Torque(torque); 3], wrench, window).unwrap();
        let expected = match torque {
            t if t > 2.5 + found.expanded_n_m => Call::Tight,
            t if t < 1.0 - found.expanded_n_m => Call::Loose,
            t if t >= 1.0 + found.expanded_n_m && t <= 2.5 - found.expanded_n_m => Call::In,
            _ => Call::Inconclusive,
        };
        prop_assert_eq!(found.call, expected);
        prop_assert!((found.torque_n_m - torque).abs() < 1e-12);
    }

    /// The figure that a slip would show in is the length that was read, however it was written.
    #[test]
    fn a_readings_figure_is_its_length(um in 0_i64..90_000) {
        let typed = [format!("{um} µm"), format!("{} mm", um as f64 / 1e3)];
        for text in typed {
            for kind in [
                format!(r#"{{"kind":"travel","travel":"{text}"}}"#),
                format!(r#"{{"kind":"pinion","pinion":1,"play":"{text}"}}"#),
                format!(r#"{{"kind":"known_shim","shim":"1 mm","float":"{text}"}}"#),
            ] {
                let read = serde_json::from_str::<ReadingInput>(&kind).unwrap().read(Unit::Inch).unwrap();
                prop_assert_eq!(read.figure(), Some(nm(um * 1_000)));
            }
        }
        let depth = DepthReading { place: 1, of: 3, depth_nm: nm(um * 1_000 + 7), bar_nm: nm(7), bar_on: BarOn::Face };
        prop_assert_eq!(depth.figure(), Some(nm(um * 1_000)));
    }
}
