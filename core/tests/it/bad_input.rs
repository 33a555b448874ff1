//! Whatever is typed and in whatever order readings come, each way answers clearly: no panic, no
//! figure that is no number, no uncertainty of nothing, no verdict that the readings cannot support.

use anvil_arithmetic::digital_gauge::Rests;
use anvil_arithmetic::measure::by_hand::{RangeInput, RangeReading};
use anvil_arithmetic::measure::depth_ring::{BarOn, DepthInput, DepthReading};
use anvil_arithmetic::measure::dial::{PairInput, PairReading, TravelInput, TravelReading};
use anvil_arithmetic::measure::feeler::{Advice, Fit, advise, open};
use anvil_arithmetic::measure::feeler::{LeafInput, LeafReading};
use anvil_arithmetic::measure::known_shim::{ShimInput, ShimReading};
use anvil_arithmetic::measure::pinions::PinionReading;
use anvil_arithmetic::measure::pinions::Pinions;
use anvil_arithmetic::measure::selector_gaps::GapsReading;
use anvil_arithmetic::measure::selector_gaps::{Held, Selector};
use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::measure::stack_sum::{TermInput, TermReading};
use anvil_arithmetic::measure::turning_torque::{PullInput, TorqueInput, TorqueReading};
use anvil_arithmetic::measure::turning_torque::{TorqueEnds, TorqueGauge};
use anvil_arithmetic::measure::{
    Adjustment, Basis, Detail, MeasureError, Method, Pool, measure, own_scatter, torques, tries,
};
use anvil_arithmetic::measure::{Reading, ReadingInput};
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::units::force::Torque;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::Call;
use anvil_arithmetic::verdict::window::Window;
use proptest::prelude::*;

use crate::budget::cases;

fn nm(nm: i64) -> Length {
    Length::from_nm(nm)
}

fn lengths() -> impl Strategy<Value = Length> {
    prop_oneof![
        Just(Length::ZERO),
        (0_i64..3_000_000).prop_map(nm),
        // Readings all alike are as likely as not at a coarse gauge.
        (0_i64..5).prop_map(|step| nm(200_000 + step * 10_000)),
    ]
}

fn fits() -> impl Strategy<Value = Fit> {
    prop_oneof![Just(Fit::Goes), Just(Fit::Refused), Just(Fit::Just)]
}

fn pulls() -> impl Strategy<Value = Option<f64>> {
    prop_oneof![Just(None), (1.0..200.0_f64).prop_map(Some)]
}

fn taken() -> impl Strategy<Value = Reading> {
    prop_oneof![
        (lengths(), 0.0..59.0_f64, pulls()).prop_map(|(travel_nm, tilt_deg, pull_n)| {
            Reading::Travel(TravelReading {
                travel_nm,
                tilt_deg,
                pull_n,
                turned: None,
            })
        }),
        (lengths(), lengths(), pulls()).prop_map(|(a, b, pull_n)| Reading::Pair(PairReading {
            home_nm: a.min(b),
            out_nm: a.max(b),
            tilt_deg: 0.0,
            pull_n,
            turned: None,
        })),
        (prop::collection::vec(lengths(), 1..3), fits())
            .prop_map(|(leaves_nm, fit)| Reading::Leaf(LeafReading { leaves_nm, fit })),
        (1_u16..8, 3_u16..9, lengths(), lengths()).prop_map(|(place, of, depth_nm, bar_nm)| {
            Reading::Depth(DepthReading {
                place,
                of,
                depth_nm,
                bar_nm,
                bar_on: BarOn::Face,
            })
        }),
        (0_u16..5, lengths())
            .prop_map(|(term, length_nm)| Reading::Term(TermReading { term, length_nm })),
        (lengths(), lengths())
            .prop_map(|(shim_nm, float_nm)| Reading::KnownShim(ShimReading { shim_nm, float_nm })),
        (0.0..9.0_f64).prop_map(|t| Reading::Torque(TorqueReading {
            torque_n_m: Torque(t)
        })),
        (0_u16..5, lengths())
            .prop_map(|(pinion, play_nm)| Reading::Pinion(PinionReading { pinion, play_nm })),
        (0_u16..4, lengths(), lengths()).prop_map(|(gear, left_nm, right_nm)| Reading::Gaps(
            GapsReading {
                gear,
                left_nm,
                right_nm,
            }
        )),
        (lengths(), lengths())
            .prop_map(|(from_nm, to_nm)| Reading::ByHand(RangeReading { from_nm, to_nm })),
    ]
}

fn gauges() -> impl Strategy<Value = Option<Gauge>> {
    let known = prop_oneof![
        Just(None),
        (
            1.0..20_000.0_f64,
            prop_oneof![Just(None), (1.0..60.0_f64).prop_map(Some)]
        )
            .prop_map(|(s_nm, dof)| Some(Repeatability { s_nm, dof }))
    ];
    let gauge = (1_i64..20_000, 0_i64..20_000, known)
        .prop_map(|(step, error, known)| Gauge::new(nm(step), nm(error), known).ok());
    prop_oneof![1 => Just(None), 9 => gauge]
}

fn windows() -> impl Strategy<Value = Window> {
    (-300_000_i64..600_000, 0_i64..400_000, 0_u8..3).prop_map(|(low, width, open)| {
        let (low, high) = (nm(low), nm(low + width));
        let ends = match open {
            0 => (None, Some(high)),
            1 => (Some(low), None),
            _ => (Some(low), Some(high)),
        };
        Window::new(ends.0, ends.1).unwrap()
    })
}

fn selector() -> Selector {
    let held = |name: &str, weight| Held {
        name: name.into(),
        weight,
        limits: Default::default(),
    };
    Selector {
        gears: vec![held("second", 1), held("third", 2)],
        left_nm: vec![nm(500_000)],
        right_nm: vec![nm(300_000), nm(100_000)],
    }
}

fn terms() -> Vec<Term> {
    let term = |opens, length, tolerance: Option<i64>| Term {
        what: "a part".into(),
        opens,
        length_nm: nm(length),
        tolerance_nm: tolerance.map(nm),
        measured_nm: Vec::new(),
        by: Vec::new(),
    };
    vec![
        term(true, 40_000_000, Some(30_000)),
        term(false, 38_000_000, Some(20_000)),
        term(false, 1_800_000, None),
    ]
}

proptest! {
    #![proptest_config(cases(600))]

    #[test]
    fn every_way_answers_with_figures_or_with_a_reason(
        readings in prop::collection::vec(taken(), 0..9),
        gauge in gauges(),
        window in windows(),
        by in -90_000_i64..90_000,
        tolerance in 0_i64..20_000,
        u_shim_nm in 0.0..5_000.0_f64,
    ) {
        let adjustments = [Adjustment { what: "gasket".into(), by: nm(by), tolerance: nm(tolerance) }];
        let terms = terms();
        let selector = selector();
        let basis = Basis {
            gauge, adjustments: &adjustments, terms: &terms, u_shim_nm, stands_off: false, proud: false, window: Some(window),
            by: &[],
            pinions: Some(Pinions { count: 3, alike_nm: nm(100_000) }), selector: Some(&selector), ..Basis::default()
        };
        for way in Method::ALL.iter().copied() {
            let found = measure(way, &readings, &basis);
            match &found.estimate {
                Err(why) => prop_assert!(!why.to_string().is_empty()),
                Ok(e) => {
                    prop_assert!(e.clearance_nm.is_finite() && e.spread_nm >= 0.0, "{way:?} {e:?}");
                    prop_assert!(e.u_nm.is_finite() && e.u_nm > 0.0, "{way:?} {e:?}");
                    prop_assert!(e.dof.is_none_or(|d| d.is_finite() && d > 0.0), "{way:?} {e:?}");
                    prop_assert!(e.can_sign_off == (way != Method::ByHand));
                    let verdict = found.verdict(window, &adjustments, None).unwrap();
                    prop_assert!((0.0..=1.0).contains(&verdict.chance), "{way:?} {verdict:?}");
                    prop_assert!(verdict.expanded_nm.is_finite() && verdict.expanded_nm >= 0.0);
                    // A plain call is never an unlikely one.
                    if verdict.call == Call::In {
                        prop_assert!(verdict.chance > 0.5, "{way:?} {verdict:?}");
                    }
                    if let Some(one) = verdict.one_more {
                        prop_assert!((0.0..=1.0).contains(&one.wrong_now) && (0.0..=1.0).contains(&one.wrong_then));
                    }
                    let share: f64 = e.parts.iter().map(|p| p.u_nm * p.u_nm).sum();
                    prop_assert!((share.sqrt() - e.u_nm).abs() < 1e-6 * e.u_nm);
                }
            }
            if let Detail::Ring { ring } = &found.detail {
                prop_assert!(ring.rise_nm.is_finite() && ring.rise_nm >= 0.0);
                prop_assert!((0.0..360.0).contains(&ring.deepest_deg));
            }
            if let Some((squares, dof)) = own_scatter(way, &readings) {
                prop_assert!(squares.is_finite() && squares >= 0.0 && dof > 0.0);
            }
        }
        let ends = TorqueEnds { low_n_m: Some(1.0), high_n_m: None };
        let wrench = TorqueGauge { resolution_n_m: 0.05, permissible_error_n_m: 0.0, repeatability_n_m: None };
        if let Ok(t) = torques(&readings, wrench, ends) {
            prop_assert!(t.u_n_m > 0.0 && (0.0..=1.0).contains(&t.chance));
        }
    }

    /// What is typed is read or refused by its field, whatever it is.
    #[test]
    fn anything_typed_is_read_or_refused(text in "\\PC{0,12}", other in "[0-9 .,/+\\-a-zµ°\"]{0,10}") {
        let t = || text.clone();
        let o = || other.clone();
        for entry in [
            ReadingInput::Travel(TravelInput { travel: t(), tilt: o(), pull: o(), turned: None }),
            ReadingInput::Travel(TravelInput { travel: o(), tilt: t(), pull: t(), turned: Some(4) }),
            ReadingInput::Pair(PairInput { home: t(), out: o(), tilt: o(), pull: t(), turned: None }),
            ReadingInput::Leaf(LeafInput { leaves: o(), fit: Fit::Goes }),
            ReadingInput::Depth(DepthInput { place: 1, of: 6, depth: o(), bar: t(), bar_on: BarOn::Face }),
            ReadingInput::Term(TermInput { term: 1, length: o() }),
            ReadingInput::KnownShim(ShimInput { shim: o(), float: t() }),
            ReadingInput::Torque(TorqueInput { torque: o() }),
            ReadingInput::Pull(PullInput { force: o(), radius: o() }),
            ReadingInput::ByHand(RangeInput { from: o(), to: t() }),
        ] {
            match entry.read(Unit::Mm) {
                Ok(taken) => {
                    prop_assert!(Method::ALL.iter().any(|w| entry.fits(*w)));
                    // What was read goes out and comes in again the same.
                    let text = serde_json::to_string(&taken).unwrap();
                    prop_assert_eq!(serde_json::from_str::<Reading>(&text).unwrap(), taken);
                }
                Err(fault) => prop_assert!(!fault.why.is_empty() && !fault.field.is_empty()),
            }
        }
    }

    /// The adviser ends, names only leaves of the set, and only sizes that can still tell something.
    #[test]
    fn the_adviser_names_what_is_in_the_set(
        readings in prop::collection::vec(taken(), 0..6),
        set in prop::collection::vec(1_i64..60, 0..12),
        window in windows(),
    ) {
        let leaves: Vec<Length> = set.iter().map(|s| nm(s * 10_000)).collect();
        if let Ok(open) = open(&tries(&readings))
            && let Advice::Try { leaves_nm, size_nm, at_most } = advise(open, &leaves, window, &[])
        {
            prop_assert!(leaves_nm.iter().all(|l| leaves.contains(l)) && leaves_nm.len() <= 2);
            prop_assert_eq!(leaves_nm.iter().map(|l| l.nm()).sum::<i64>(), size_nm.nm());
            prop_assert!(size_nm > open.0 && open.1.is_none_or(|refused| size_nm < refused));
            prop_assert!((1..=6).contains(&at_most));
        }
    }

    /// A hand that pushes and pulls: between rests at home and out lies the travel, to within the
    /// noise of a rest's mean, however the gauge's noise falls.
    #[test]
    fn the_travel_lies_between_the_rests(
        travel in 50_000_i64..900_000,
        home in -400_000_i64..400_000,
        noise in prop::collection::vec(-4_000_i64..4_000, 240),
    ) {
        let mut rests = Rests::default();
        for (at, noise) in noise.iter().enumerate() {
            // 20 ms apart: 1.6 s home, 1.6 s out, 1.6 s home.
            let out = (80..160).contains(&at);
            let stands = home + if out { travel } else { 0 };
            rests.feed(at as u64 * 20, nm(stands + noise));
        }
        let found = rests.travel().unwrap().nm();
        prop_assert!((found - travel).abs() < 6_000, "{found} for {travel}");
        rests.clear();
        prop_assert!(rests.travel().is_none() && !rests.resting());
    }

    /// What never stays together never rests.
    #[test]
    fn a_gauge_that_moves_has_no_rest(step in 2_000_i64..50_000) {
        let mut rests = Rests::default();
        for at in 0..200_i64 {
            rests.feed(at.unsigned_abs() * 20, nm(at * step));
        }
        prop_assert!(rests.low().is_none() && !rests.resting());
    }

    /// Pooling is what one long series about known means would give.
    #[test]
    fn pooled_scatter_is_that_of_all_deviations(
        groups in prop::collection::vec(prop::collection::vec(100_000_i64..110_000, 2..6), 6..20),
    ) {
        let mut pool = Pool::default();
        for group in &groups {
            let taken: Vec<Reading> = group
                .iter()
                .map(|g| Reading::Travel(TravelReading { travel_nm: nm(*g), tilt_deg: 0.0, pull_n: None, turned: None }))
                .collect();
            let (squares, dof) = own_scatter(Method::DialTravel, &taken).unwrap();
            pool.squares += squares;
            pool.dof += dof;
        }
        let known = pool.or_stated(None);
        let squares: f64 = groups
            .iter()
            .map(|g| {
                let mean = g.iter().sum::<i64>() as f64 / g.len() as f64;
                g.iter().map(|x| (*x as f64 - mean).powi(2)).sum::<f64>()
            })
            .sum();
        let dof: usize = groups.iter().map(|g| g.len() - 1).sum();
        if dof >= 10 && squares > 0.0 {
            let s = known.unwrap().s_nm;
            prop_assert!((s - (squares / dof as f64).sqrt()).abs() < 1e-6 * s);
        } else {
            prop_assert_eq!(known, None);
        }
    }
}

#[test]
fn with_no_gauge_only_fingers_answer() {
    let basis = Basis::default();
    let felt = [Reading::ByHand(RangeReading {
        from_nm: nm(100_000),
        to_nm: nm(200_000),
    })];
    for way in Method::ALL.iter().copied() {
        let found = measure(way, &felt, &basis).estimate;
        assert_eq!(found.is_ok(), way == Method::ByHand, "{way:?}");
        if way != Method::ByHand {
            assert_eq!(found, Err(MeasureError::NoGauge));
        }
    }
}
