//! Pinions one by one and selector gaps, against the trade's rule and against plain searches.

#![allow(clippy::float_cmp)] // figures that come out whole are held to be so

use anvil_arithmetic::choose::required::{Effect, required_thickness};
use anvil_arithmetic::choose::{Choice, OfFamily, Offer, Request, choose, offers};
use anvil_arithmetic::measure::Reading;
use anvil_arithmetic::measure::centring::{Gaps, centre};
use anvil_arithmetic::measure::feeler::Fit;
use anvil_arithmetic::measure::feeler::LeafReading;
use anvil_arithmetic::measure::pinions::PinionReading;
use anvil_arithmetic::measure::pinions::Pinions;
use anvil_arithmetic::measure::selector_gaps::GapsReading;
use anvil_arithmetic::measure::selector_gaps::{Held, Selector};
use anvil_arithmetic::measure::{Basis, Detail, Method, MethodResult, measure};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::uncertainty::gauge::Gauge;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use anvil_arithmetic::verdict::{Call, judge};
use proptest::prelude::*;

fn thou(tenths: i64) -> Length {
    Length::from_nm(tenths * 2_540)
}

fn um(um: i64) -> Length {
    Length::from_nm(um * 1_000)
}

fn window(low: Option<Length>, high: Option<Length>) -> Window {
    Window::new(low, high).unwrap()
}

fn pinions(plays: &[Length], alike_nm: Length, window: Window) -> MethodResult {
    let taken: Vec<Reading> = (1..)
        .zip(plays)
        .map(|(pinion, play_nm)| {
            Reading::Pinion(PinionReading {
                pinion,
                play_nm: *play_nm,
            })
        })
        .collect();
    let count = u16::try_from(plays.len()).unwrap();
    measure(
        Method::OneByOne,
        &taken,
        &basis(Some(window), Some(Pinions { count, alike_nm }), None),
    )
}

fn basis(
    window: Option<Window>,
    pinions: Option<Pinions>,
    selector: Option<&Selector>,
) -> Basis<'_> {
    Basis {
        gauge: Gauge::new(um(10), um(4), None).ok(),
        by: &[],
        window,
        pinions,
        selector,
        ..Basis::default()
    }
}

fn call(plays: &[i64], alike: i64) -> Call {
    let plays: Vec<Length> = plays.iter().map(|t| thou(t * 10)).collect();
    // Common practice, no source: planet pinions 9 to 24 thou, and all alike.
    let window = window(Some(thou(90)), Some(thou(240)));
    pinions(&plays, thou(alike * 10), window)
        .verdict(window, &[], None)
        .unwrap()
        .call
}

#[test]
fn all_in_the_window_and_all_alike() {
    assert_eq!(call(&[14, 15, 14, 16], 5), Call::In);
    // Each is in, but one is far looser than the rest.
    assert_eq!(call(&[12, 12, 12, 21], 5), Call::Loose);
    assert_eq!(call(&[20, 20, 20, 11], 5), Call::Tight);
    // Alike, but one is out.
    assert_eq!(call(&[26, 25, 26, 27], 5), Call::Loose);
    assert_eq!(call(&[12, 6, 12, 12], 20), Call::Tight);
    // On the edge of being alike.
    assert_eq!(call(&[12, 12, 17, 12], 5), Call::Inconclusive);
}

#[test]
fn every_pinion_is_measured() {
    let wide = window(Some(um(200)), Some(um(600)));
    let of = Pinions {
        count: 4,
        alike_nm: um(100),
    };
    let one = |pinion| {
        Reading::Pinion(PinionReading {
            pinion,
            play_nm: um(300),
        })
    };
    let found = measure(
        Method::OneByOne,
        &[one(1), one(3)],
        &basis(Some(wide), Some(of), None),
    );
    let why = found.estimate.unwrap_err().to_string();
    assert_eq!(
        why,
        "every pinion is measured: still without a reading, 2, 4"
    );
    let Detail::Pinions { pinions } = found.detail else {
        panic!("no pinions")
    };
    assert_eq!(pinions.each.len(), 2);
    let found = measure(
        Method::OneByOne,
        &[one(5)],
        &basis(Some(wide), Some(of), None),
    );
    assert!(
        found
            .estimate
            .unwrap_err()
            .to_string()
            .starts_with("pinion 5: the carrier has 4")
    );
}

fn gaps(gears: &[(i64, i64)]) -> Vec<Reading> {
    let gap = |(gear, (left, right)): (u16, &(i64, i64))| {
        Reading::Gaps(GapsReading {
            gear,
            left_nm: um(*left),
            right_nm: um(*right),
        })
    };
    (1..).zip(gears).map(gap).collect()
}

fn selector(weights: &[u32]) -> Selector {
    let held = |(n, weight): (usize, &u32)| Held {
        name: format!("gear {}", n + 1),
        weight: *weight,
        limits: Default::default(),
    };
    Selector {
        gears: weights.iter().enumerate().map(held).collect(),
        left_nm: vec![um(500)],
        right_nm: vec![um(300)],
    }
}

#[test]
fn the_worst_offset_counts_and_the_shims_are_shared_out() {
    let two = selector(&[1, 1]);
    let limit = window(None, Some(um(150)));
    let found = measure(
        Method::SelectorGaps,
        &gaps(&[(900, 1_300), (700, 1_100)]),
        &basis(Some(limit), None, Some(&two)),
    );
    let estimate = found.estimate.clone().unwrap();
    assert_eq!(estimate.clearance_nm, 200_000.0);
    // Two gaps, each with the gauge's step and error, halved: √(2 (10²/12 + 4²/3)) / 2 µm.
    let of_gap: f64 = 100.0 / 12.0 + 16.0 / 3.0;
    assert!((estimate.u_nm - (2.0 * of_gap).sqrt() / 2.0 * 1_000.0).abs() < 1e-6);
    assert_eq!(found.verdict(limit, &[], None).unwrap().call, Call::Loose);
    let Detail::Centring { centring } = found.detail else {
        panic!("no centring")
    };
    // Both shims at the left move it 0.3 to the right.
    assert_eq!(centring.arrangements[0].shift_nm, um(-300));
    assert_eq!(centring.worst_after(um(-300)), 100_000.0);
    let one = measure(
        Method::SelectorGaps,
        &gaps(&[(900, 1_300)]),
        &basis(None, None, Some(&two)),
    );
    assert!(one.estimate.unwrap_err().to_string().ends_with("gear 2"));
}

#[test]
fn a_retainer_that_stands_off_is_pinched_by_as_much() {
    // Common practice, no source: the plate stands 5 off with the bearing held, 2 of pinch wanted: shim 3.
    let leaf = |tenths, fit| {
        Reading::Leaf(LeafReading {
            leaves_nm: vec![thou(tenths)],
            fit,
        })
    };
    let off = Basis {
        stands_off: true,
        proud: false,
        ..basis(None, None, None)
    };
    let just = measure(Method::Feeler, &[leaf(50, Fit::Just)], &off)
        .estimate
        .unwrap();
    assert_eq!(just.clearance_nm, thou(-50).as_f64());
    let aim = TargetRange {
        from_nm: thou(-20).as_f64(),
        to_nm: thou(-20).as_f64(),
    };
    let found = required_thickness(just.clearance_nm, aim, Length::ZERO, Effect::Opens);
    assert_eq!(found.thickness_nm, thou(30).as_f64());
    // Between leaves: goes 4, not 6, is a pinch of 4 to 6, in a window of 3 to 7 and not in one of 1 to 3.
    let tried = measure(
        Method::Feeler,
        &[leaf(40, Fit::Goes), leaf(60, Fit::Refused)],
        &off,
    );
    let call = |low, high| {
        tried
            .verdict(window(Some(thou(low)), Some(thou(high))), &[], None)
            .unwrap()
            .call
    };
    assert_eq!(
        (call(-70, -30), call(-30, -10), call(-50, -10)),
        (Call::In, Call::Tight, Call::Inconclusive)
    );
}

fn stock(sizes: &[i64]) -> Vec<Stock> {
    let one = |size: &i64| Stock {
        thickness_nm: um(*size),
        grade: Grade::Marked,
        u_nm: 3_000.0,
        quantity: 4,
        source: Availability::OnHand,
    };
    sizes.iter().map(one).collect()
}

fn request(stock: &[Stock], fitted: i64, pieces: u32) -> Request<'_> {
    Request {
        shape: None,
        clearance_nm: 1_700_000.0,
        u_nm: 8_000.0,
        dof: None,
        fitted: um(fitted),
        u_fitted_nm: 3_000.0 * f64::from(pieces),
        effect: Effect::Closes,
        window: window(Some(um(1_100)), Some(um(1_500))),
        aim: TargetRange {
            from_nm: 1_300_000.0,
            to_nm: 1_300_000.0,
        },
        required_probability: 0.95,
        harm: None,
        least_pieces: pieces,
        most_pieces: pieces,
        best: 6,
        stock,
    }
}

/// What is offered of each family's choices, by the chooser.
fn offered(requests: &[(usize, Request<'_>)], best: usize) -> Vec<Offer> {
    let ranked: Vec<Vec<Choice>> = requests
        .iter()
        .map(|(_, request)| choose(request).unwrap().ranked)
        .collect();
    let of_each = requests.iter().zip(&ranked);
    let asked: Vec<OfFamily<'_>> = of_each
        .map(|((family, request), ranked)| OfFamily {
            family: *family,
            out: request.fitted,
            ranked,
            steps_out: 0,
        })
        .collect();
    offers(&asked, best)
}

#[test]
fn of_two_that_land_alike_the_one_with_less_taken_apart_comes_first() {
    let (rings, plates) = (stock(&[1_900]), stock(&[5_400]));
    let requests = [request(&rings, 1_500, 1), request(&plates, 5_000, 1)];
    let ranked = requests
        .each_ref()
        .map(|request| choose(request).unwrap().ranked);
    let asked = |ring_steps: usize, plate_steps: usize| {
        let of = |family: usize, steps_out| OfFamily {
            family,
            out: requests[family].fitted,
            ranked: &ranked[family],
            steps_out,
        };
        let found = offers(&[of(0, ring_steps), of(1, plate_steps)], 6);
        let said: Vec<_> = found.iter().map(|o| (o.of, o.less_taken_apart)).collect();
        said
    };
    assert_eq!(asked(5, 2), [(1, true), (0, false)]);
    assert_eq!(asked(2, 5), [(0, true), (1, false)]);
    assert_eq!(
        asked(3, 3),
        [(0, false), (1, false)],
        "nothing decides: the sheet's own order"
    );
    // A figure that lands better comes first, whatever is taken apart for it.
    let nearer = stock(&[1_910]);
    let nearer = choose(&request(&nearer, 1_500, 1)).unwrap().ranked;
    let further = [
        OfFamily {
            family: 0,
            out: um(1_500),
            ranked: &nearer,
            steps_out: 0,
        },
        OfFamily {
            family: 1,
            out: um(5_000),
            ranked: &ranked[1],
            steps_out: 9,
        },
    ];
    let found = offers(&further, 6);
    assert_eq!((found[0].of, found[0].less_taken_apart), (1, false));
}

#[test]
fn ring_plate_and_steels_are_offered_in_one_list() {
    // 0.4 too much: no ring is that much thicker, a plate is 0.35, two steels of 2.0 for 2.2 make 0.4.
    let (rings, plates, steels) = (
        stock(&[1_500, 1_700]),
        stock(&[5_350, 5_700]),
        stock(&[2_200]),
    );
    let requests = [
        (0, request(&rings, 1_500, 1)),
        (1, request(&plates, 5_000, 1)),
        (2, request(&steels, 4_000, 2)),
    ];
    let found = offered(&requests, 6);
    assert_eq!(
        (found[0].of, found[0].choice.predicted_nm),
        (2, 1_300_000.0)
    );
    assert_eq!(
        (found[1].of, found[1].choice.predicted_nm),
        (1, 1_350_000.0)
    );
    let ring = found.iter().position(|o| o.of == 0).unwrap();
    assert!(ring > 1 && found.iter().all(|o| o.out_nm == requests[o.of].1.fitted));
}

proptest! {
    /// In only where each pinion alone is in, and no looser call than that on the worst of them.
    #[test]
    fn pinions_are_no_better_than_the_worst(
        plays in prop::collection::vec(100_i64..700, 2..7),
        alike in 20_i64..400,
    ) {
        let window = window(Some(um(230)), Some(um(610)));
        let plays: Vec<Length> = plays.into_iter().map(um).collect();
        let all = pinions(&plays, um(alike), window);
        let verdict = all.verdict(window, &[], None).unwrap();
        let alone: Vec<_> = plays
            .iter()
            .map(|p| judge(&pinions(&[*p], um(alike), window).estimate.unwrap(), window))
            .collect();
        prop_assert!(alone.iter().all(|v| verdict.chance <= v.chance + 1e-9));
        if verdict.call == Call::In {
            prop_assert!(alone.iter().all(|v| v.call == Call::In));
            let spread = plays.iter().max().unwrap().nm() - plays.iter().min().unwrap().nm();
            prop_assert!(spread <= alike * 1_000);
        }
        if let Some(out) = alone.iter().find(|v| matches!(v.call, Call::Tight | Call::Loose)) {
            prop_assert!(matches!(verdict.call, Call::Tight | Call::Loose), "{out:?} {verdict:?}");
        }
    }

    /// A check of gaps finds what the sum finds, and every sharing-out it offers is what the gaps would be.
    #[test]
    fn gaps_of_a_check_are_the_sum(
        gears in prop::collection::vec((0_i64..2_000, 0_i64..2_000, 1_u32..4), 1..7),
    ) {
        let weights: Vec<u32> = gears.iter().map(|g| g.2).collect();
        let of = selector(&weights);
        let taken = gaps(&gears.iter().map(|g| (g.0, g.1)).collect::<Vec<_>>());
        let found = measure(Method::SelectorGaps, &taken, &basis(None, None, Some(&of)));
        let as_sum: Vec<Gaps> = gears.iter().zip(&of.gears).map(|(g, held)| Gaps {
            name: held.name.clone(), left: um(g.0), right: um(g.1), weight: g.2,
        }).collect();
        let sum = centre(&as_sum, &of.left_nm, &of.right_nm).unwrap();
        prop_assert_eq!(found.estimate.unwrap().clearance_nm, sum.worst_now_nm);
        let Detail::Centring { centring } = found.detail else { panic!("no centring") };
        for way in &centring.arrangements {
            prop_assert!((centring.worst_after(way.shift_nm) - way.worst_nm).abs() < 1e-6);
        }
    }

    /// The merged list is the best of all lists: nothing left out beats what is in it.
    #[test]
    fn offers_are_each_familys_best(
        first in prop::collection::vec(800_i64..2_400, 1..8),
        second in prop::collection::vec(4_000_i64..6_000, 1..8),
    ) {
        let (a, b) = (stock(&first), stock(&second));
        let requests = [(0, request(&a, 1_500, 1)), (1, request(&b, 5_000, 1))];
        let found = offered(&requests, 6);
        for (of, (_, request)) in requests.iter().enumerate() {
            let own = choose(request).unwrap().ranked;
            let listed: Vec<_> = found.iter().filter(|o| o.of == of).map(|o| &o.choice).collect();
            prop_assert!(listed.iter().zip(&own).all(|(l, o)| *l == o), "in its own family's order");
        }
        let best = found.iter().map(|o| o.choice.chance).fold(0.0, f64::max);
        let nearest = |c: &&anvil_arithmetic::choose::Choice| c.reaches_floor;
        let reach: Vec<_> = requests.iter().flat_map(|(_, r)| choose(r).unwrap().ranked).collect();
        if let Some(least) = reach.iter().filter(nearest).map(|c| c.off_target_nm).min_by(f64::total_cmp) {
            prop_assert_eq!(found[0].choice.off_target_nm, least);
        } else {
            prop_assert_eq!(found[0].choice.chance, best);
        }
    }
}
