//! The chooser against exhaustive search, and against cases of common practice.

use anvil_arithmetic::choose::required::{Effect, required_thickness};
use anvil_arithmetic::choose::{Choice, ChooseError, Request, choose, fallbacks};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::uncertainty::distribution::{Distribution, Shape};
use anvil_arithmetic::uncertainty::estimate::{Component, Source};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use anvil_arithmetic::verdict::{Call, conformance_probability};
use proptest::prelude::*;

use crate::budget::cases;

const THOU: f64 = 25_400.0;

fn thou(t: f64) -> Length {
    #[allow(clippy::cast_possible_truncation)] // whole tenths of a thou
    Length::from_nm((t * THOU).round() as i64)
}

fn window(low: f64, high: f64) -> Window {
    Window::new(Some(thou(low)), Some(thou(high))).unwrap()
}

fn at(target: f64) -> TargetRange {
    TargetRange {
        from_nm: target * THOU,
        to_nm: target * THOU,
    }
}

fn on_hand(sizes: &[f64]) -> Vec<Stock> {
    let line = |s: &f64| Stock {
        thickness_nm: thou(*s),
        grade: Grade::Marked,
        u_nm: 0.0,
        quantity: 9,
        source: Availability::OnHand,
    };
    sizes.iter().map(line).collect()
}

fn request(c: f64, u: f64, window: Window, aim: TargetRange, stock: &[Stock]) -> Request<'_> {
    Request {
        clearance_nm: c * THOU,
        u_nm: u * THOU,
        dof: None,
        shape: None,
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        effect: Effect::Closes,
        window,
        aim,
        required_probability: 0.95,
        harm: None,
        least_pieces: 1,
        most_pieces: 1,
        best: 5,
        stock,
    }
}

/// Everything that decides a rank, worked out the slow way.
struct Slow {
    total: i64,
    chance: f64,
    distance: f64,
    count: usize,
    source: Availability,
    sizes: Vec<i64>,
}

/// All stacks, one by one; the best of each total; then all totals in order.
fn exhaustive(r: &Request<'_>) -> Vec<Slow> {
    fn walk(r: &Request<'_>, from: usize, stack: &mut Vec<usize>, all: &mut Vec<Slow>) {
        if stack.len() >= r.least_pieces as usize {
            all.push(slow(r, stack));
        }
        if stack.len() == r.most_pieces as usize {
            return;
        }
        for next in from..r.stock.len() {
            let used = stack.iter().filter(|i| **i == next).count();
            if used < r.stock[next].quantity as usize {
                stack.push(next);
                walk(r, next, stack, all);
                stack.pop();
            }
        }
    }
    fn slow(r: &Request<'_>, stack: &[usize]) -> Slow {
        let pieces: Vec<&Stock> = stack.iter().map(|i| &r.stock[*i]).collect();
        let total: i64 = pieces.iter().map(|p| p.thickness_nm.nm()).sum();
        let predicted = r.clearance_nm - r.effect.k() * (total - r.fitted.nm()) as f64;
        let mut by_size = pieces.clone();
        by_size.sort_by(|a, b| {
            (a.thickness_nm, a.source)
                .cmp(&(b.thickness_nm, b.source))
                .then(a.u_nm.total_cmp(&b.u_nm))
                .then(a.grade.cmp(&b.grade))
        });
        // What is off by itself: each piece that was measured, and all together of one size that were not.
        let same = |a: &&Stock, b: &&Stock| {
            let line = |s: &Stock| (s.thickness_nm, s.source, s.grade, s.u_nm.to_bits());
            a.grade == Grade::Marked && line(a) == line(b)
        };
        let by_itself: Vec<f64> = by_size
            .chunk_by(same)
            .map(|alike| alike.len() as f64 * alike[0].u_nm)
            .collect();
        let pieces_u2: f64 = by_itself.iter().map(|u| u * u).sum();
        let variance = r.u_nm.powi(2) + r.u_fitted_nm.powi(2) + pieces_u2;
        let dof = r
            .dof
            .map(|d| variance.powi(2) / (r.u_nm.powi(4) / d))
            .filter(|d| d.is_finite());
        let mut sizes: Vec<i64> = pieces.iter().map(|p| p.thickness_nm.nm()).collect();
        sizes.sort_unstable();
        let u = variance.sqrt();
        let chance = match &r.shape {
            Some(shape) => {
                let of_pieces = pieces_u2 + r.u_fitted_nm.powi(2);
                let fourths: f64 = by_itself.iter().map(|u| u.powi(4)).sum();
                let flat = (fourths + r.u_fitted_nm.powi(4)).sqrt().min(of_pieces);
                let part = |from, u2: f64| Component {
                    from,
                    u_nm: u2.max(0.0).sqrt(),
                    dof: None,
                };
                let rest = part(Source::Pieces, of_pieces - flat);
                shape.between(
                    &[part(Source::Tolerance, flat), rest],
                    predicted,
                    r.window.low_nm(),
                    r.window.high_nm(),
                )
            }
            None => conformance_probability(predicted, u, dof, r.window),
        };
        Slow {
            total,
            chance,
            distance: r.aim.distance_nm(predicted),
            count: stack.len(),
            source: pieces
                .iter()
                .map(|p| p.source)
                .max()
                .unwrap_or(Availability::OnHand),
            sizes,
        }
    }
    let mut all = Vec::new();
    walk(r, 0, &mut Vec::new(), &mut all);
    let key = |s: &Slow| (s.chance >= r.required_probability, s.chance, s.distance);
    all.sort_by(|a, b| {
        let (fa, ca, da) = key(a);
        let (fb, cb, db) = key(b);
        let by_chance = if fa {
            std::cmp::Ordering::Equal
        } else {
            cb.total_cmp(&ca)
        };
        fb.cmp(&fa)
            .then(by_chance)
            .then(da.total_cmp(&db))
            .then(a.count.cmp(&b.count))
            .then(a.source.cmp(&b.source))
            .then_with(|| b.sizes.cmp(&a.sizes))
            .then(b.chance.total_cmp(&a.chance))
    });
    let mut seen = std::collections::BTreeSet::new();
    all.retain(|s| seen.insert(s.total));
    all.truncate(r.best);
    all
}

fn ascending_sizes(choice: &Choice) -> Vec<i64> {
    let mut sizes: Vec<i64> = choice
        .pieces
        .iter()
        .flat_map(|p| std::iter::repeat_n(p.thickness_nm.nm(), p.count as usize))
        .collect();
    sizes.sort_unstable();
    sizes
}

fn source() -> impl Strategy<Value = Availability> {
    prop_oneof![
        4 => Just(Availability::OnHand),
        1 => Just(Availability::ToOrder),
        1 => Just(Availability::Discontinued)
    ]
}

prop_compose! {
    /// Sizes on a coarse grid (many equal totals) or as a micrometer gives them (none equal); all
    /// from one drawer and as sure as each other, or of every source.
    fn stock()(grid in prop_oneof![Just(50_000_i64), Just(1_000), Just(1)], alike in any::<bool>())
        (lines in prop::collection::vec(
            (1_i64..2_000_000, 0_u32..4, prop_oneof![Just(0.0), Just(900.0), Just(5_773.5)], source(), any::<bool>()), 1..9),
         grid in Just(grid), alike in Just(alike)) -> Vec<Stock> {
        lines.into_iter().map(|(nm, quantity, u_nm, source, miked)| Stock {
            thickness_nm: Length::from_nm((nm / grid + 1) * grid),
            grade: if miked { Grade::Miked } else { Grade::Marked },
            u_nm: if alike { 900.0 } else { u_nm },
            quantity,
            source: if alike { Availability::OnHand } else { source },
        }).collect()
    }
}

proptest! {
    #![proptest_config(cases(1_500))]

    /// Float and preload, both signs of k, closed and half-open windows, a figure or a range aimed
    /// at, few and many degrees of freedom, one t or folded, sure and unsure readings: always the exhaustive answer.
    #[test]
    fn the_chooser_equals_exhaustive_search(
        stock in stock(),
        clearance in -1_000_000_i64..4_000_000,
        fitted in prop_oneof![Just(0_i64), 1_i64..2_000_000],
        u in prop_oneof![Just(0.0), 100.0..20_000.0],
        dof in prop_oneof![Just(None), (1.0..8.0_f64).prop_map(Some)],
        opens in any::<bool>(),
        low in -300_000_i64..300_000,
        width in 0_i64..200_000,
        open_end in 0..4,
        aim in (0.0..1.0_f64, 0.0..1.0_f64),
        least in 0_u32..2,
        most in 1_u32..5,
        best in 1_usize..7,
        folded in prop_oneof![2 => Just(None), 1 => (0.1..5.0_f64).prop_map(Some)],
    ) {
        let (low_end, high_end) = (Length::from_nm(low), Length::from_nm(low + width));
        let window = match open_end {
            0 => Window::new(Some(low_end), None),
            1 => Window::new(None, Some(high_end)),
            _ => Window::new(Some(low_end), Some(high_end)),
        }.unwrap();
        let place = |share: f64| low as f64 + share * width as f64;
        let asked = Request {
            clearance_nm: clearance as f64,
            u_nm: u,
            dof,
            // A t and a rectangle of so many times its width.
            shape: folded.and_then(|times| {
                let unit = u / 1.0_f64.hypot(times);
                let part = |from, u_nm, dof| Component { from, u_nm, dof };
                let of = [part(Source::Scatter, unit, dof), part(Source::PermissibleError, unit * times, None)];
                Shape::new(Distribution::of(&of))
            }),
            fitted: Length::from_nm(fitted),
            u_fitted_nm: 300.0,
            effect: if opens { Effect::Opens } else { Effect::Closes },
            window,
            aim: TargetRange { from_nm: place(aim.0.min(aim.1)), to_nm: place(aim.0.max(aim.1)) },
            required_probability: 0.95,
            harm: None,
            least_pieces: least,
            most_pieces: most,
            best,
            stock: &stock,
        };
        let found = choose(&asked).unwrap();
        let expected = exhaustive(&asked);
        prop_assert_eq!(found.ranked.len(), expected.len());
        for (found, expected) in found.ranked.iter().zip(&expected) {
            prop_assert_eq!(found.total_nm.nm(), expected.total);
            // Sums in another order differ in their last bit, which the integral of a t makes a little more of.
            prop_assert!(
                (found.chance - expected.chance).abs() < 1e-10,
                "{} and {}",
                found.chance,
                expected.chance
            );
            prop_assert_eq!(found.source, expected.source);
            prop_assert_eq!(ascending_sizes(found), expected.sizes.clone());
        }
    }
}

/// Common practice, no source: the six-piece stack is in the chooser's own example; here the
/// neighbours it is chosen over.
#[test]
fn six_pieces_of_five_not_five_and_not_seven() {
    let stock = on_hand(&[5.0]);
    let mean = (40.5 + 41.0 + 39.5) / 3.0;
    let asked = Request {
        most_pieces: 8,
        ..request(mean, 0.3, window(6.0, 12.0), at(9.0), &stock)
    };
    let found = choose(&asked).unwrap();
    assert_eq!(found.ranked[0].total_nm, thou(30.0));
    assert!((found.ranked[0].predicted_nm / THOU - 10.333).abs() < 0.001);
    assert!(found.ranked[1..].iter().all(|c| c.lands != Call::In));
}

/// Common practice, no source: wants 30.9; a pair making 30.5 gives preload 2.6, in by the shop's
/// own rule [−4, 0] and out by the book's [−2, 0].
#[test]
fn a_pair_that_is_in_by_the_shop_and_out_by_the_book() {
    let target = at(-3.0);
    let s = required_thickness(27.9 * THOU, target, Length::ZERO, Effect::Closes);
    assert!((s.thickness_nm / THOU - 30.9).abs() < 1e-9);
    let one_each = on_hand(&[14.0, 16.5])
        .into_iter()
        .map(|s| Stock { quantity: 1, ..s });
    let stock: Vec<Stock> = one_each.collect();
    let shop = Request {
        most_pieces: 2,
        ..request(27.9, 0.2, window(-4.0, 0.0), target, &stock)
    };
    let best = &choose(&shop).unwrap().ranked[0];
    assert!((best.predicted_nm / THOU + 2.6).abs() < 1e-9);
    assert_eq!((best.lands, best.reaches_floor), (Call::In, true));
    let book = Request {
        aim: at(-1.0),
        window: window(-2.0, 0.0),
        ..shop
    };
    let same = &choose(&book).unwrap().ranked[0];
    assert_eq!((same.total_nm, same.lands), (thou(30.5), Call::Tight));
}

/// Common practice, no source: 34.5 on hand is a preload of 1 (out), 31.5 lands on the edge; the
/// honest answer is 31.5 at even odds.
#[test]
fn the_edge_is_called_even_odds() {
    let stock = on_hand(&[31.5, 34.5]);
    let asked = request(33.5, 0.3, window(0.0, 2.0), at(1.0), &stock);
    let found = choose(&asked).unwrap();
    assert_eq!(found.ranked[0].total_nm, thou(31.5));
    assert!((found.ranked[0].chance - 0.5).abs() < 0.01);
    assert!(!found.ranked[0].reaches_floor);
    assert_eq!(found.thicker.unwrap().lands, Call::Tight);
}

/// Common practice, no source: the plate stands 5 proud, a pinch of 2 is wanted, a thicker shim
/// eases it: shim 3.
#[test]
fn a_retainer_pinch_eased_by_a_thicker_shim() {
    let stock = on_hand(&[2.0, 3.0, 4.0]);
    let asked = Request {
        effect: Effect::Opens,
        ..request(-5.0, 0.1, window(-3.0, -1.0), at(-2.0), &stock)
    };
    assert_eq!(choose(&asked).unwrap().ranked[0].total_nm, thou(3.0));
}

#[test]
fn on_hand_comes_before_to_order_and_quantities_are_kept() {
    let piece = |t: f64, quantity, source| Stock {
        thickness_nm: thou(t),
        grade: Grade::Marked,
        u_nm: 0.0,
        quantity,
        source,
    };
    let stock = [
        piece(10.0, 1, Availability::OnHand),
        piece(20.0, 5, Availability::ToOrder),
    ];
    let asked = Request {
        most_pieces: 2,
        ..request(25.0, 0.1, window(4.0, 6.0), at(5.0), &stock)
    };
    let best = &choose(&asked).unwrap().ranked[0];
    assert_eq!(
        (best.source, best.total_nm),
        (Availability::ToOrder, thou(20.0))
    );
    let two = [
        piece(10.0, 2, Availability::OnHand),
        piece(20.0, 5, Availability::ToOrder),
    ];
    let best = &choose(&Request {
        stock: &two,
        ..asked
    })
    .unwrap()
    .ranked[0];
    // One piece to order is fewer than two on hand: fewer pieces rank first.
    assert_eq!(best.pieces.len(), 1);
}

#[test]
fn when_nothing_fits_the_ways_out_are_worked_out() {
    let stock = on_hand(&[10.0, 40.0]);
    let asked = request(30.0, 0.1, window(4.0, 6.0), at(5.0), &stock);
    assert!(!choose(&asked).unwrap().ranked[0].reaches_floor);
    let ways = fallbacks(&asked, 0.05 * THOU, &[]).unwrap();
    assert!((ways.wanted_nm / THOU - 25.0).abs() < 1e-9);
    let (from, to) = (ways.from_nm.unwrap() / THOU, ways.to_nm.unwrap() / THOU);
    assert!(
        24.0 < from && from < 24.5 && 25.5 < to && to < 26.0,
        "{from} to {to}"
    );
    let grind = ways.grind.unwrap();
    assert_eq!(grind.from_nm, thou(40.0));
    assert!((grind.by_nm / THOU - 15.0).abs() < 1e-9);
    assert_eq!(ways.stack_more, None);
    let tens = on_hand(&[12.5]);
    let more = fallbacks(
        &Request {
            stock: &tens,
            ..asked
        },
        0.0,
        &[],
    )
    .unwrap()
    .stack_more
    .unwrap();
    assert_eq!(more.total_nm, thou(25.0));
}

#[test]
fn a_reading_too_unsure_for_the_window_says_that_no_piece_will_do() {
    let stock = on_hand(&[25.0]);
    let asked = request(30.0, 3.0, window(4.0, 6.0), at(5.0), &stock);
    let ways = fallbacks(&asked, 0.0, &[]).unwrap();
    assert_eq!((ways.from_nm, ways.to_nm), (None, None));
}

#[test]
fn bad_requests_are_named() {
    let stock = on_hand(&[5.0]);
    let good = request(10.0, 0.1, window(4.0, 7.0), at(5.0), &stock);
    let fault = |r: &Request<'_>| choose(r).unwrap_err();
    assert_eq!(
        fault(&Request {
            required_probability: 1.0,
            ..good.clone()
        }),
        ChooseError::BadFloor
    );
    assert_eq!(
        fault(&Request {
            most_pieces: 9,
            ..good.clone()
        }),
        ChooseError::BadPieces
    );
    assert_eq!(
        fault(&Request {
            u_nm: f64::NAN,
            ..good.clone()
        }),
        ChooseError::NotFinite
    );
    let none = [Stock {
        thickness_nm: Length::ZERO,
        ..stock[0].clone()
    }];
    assert_eq!(
        fault(&Request {
            stock: &none,
            ..good.clone()
        }),
        ChooseError::ThinSize { at: 1 }
    );
    let many: Vec<Stock> = (1..=400)
        .map(|i| Stock {
            thickness_nm: Length::from_nm(i),
            ..stock[0].clone()
        })
        .collect();
    assert_eq!(
        fault(&Request {
            stock: &many,
            most_pieces: 8,
            ..good.clone()
        }),
        ChooseError::TooMany
    );
    assert_eq!(choose(&Request { stock: &[], ..good }).unwrap().ranked, []);
}

/// Few enough sizes to lay out, each known as surely as no other, and nothing reaches what is asked: that is looked at for
/// so long and no longer. With fewer pieces it is answered.
#[test]
fn what_would_take_minutes_is_refused() {
    let sizes: Vec<Stock> = (0..80)
        .map(|i: i64| Stock {
            thickness_nm: Length::from_nm(500_000 + i * 7_919_003 % 2_000_000),
            grade: Grade::Miked,
            u_nm: (i * 7_919 % 50_000) as f64,
            quantity: 8,
            source: Availability::OnHand,
        })
        .collect();
    let of = |most_pieces: u32| Request {
        clearance_nm: 1_500_000.0 * f64::from(most_pieces),
        required_probability: 0.999,
        most_pieces,
        ..request(0.0, 0.08, window(3.0, 5.0), at(4.0), &sizes)
    };
    assert_eq!(choose(&of(8)).unwrap_err(), ChooseError::TooMany);
    assert!(!choose(&of(3)).unwrap().ranked.is_empty());
}
