//! Folded distributions: against integrals taken another way, closed forms, and the tables of the normal and Student's t.

use anvil_arithmetic::uncertainty::distribution::Distribution;
use anvil_arithmetic::uncertainty::estimate::{Component, Source};
use proptest::prelude::*;
use statrs::distribution::{Continuous, ContinuousCDF, Normal, StudentsT};

use crate::budget::cases;

fn scatter(u_nm: f64, dof: Option<f64>) -> Component {
    Component {
        from: Source::Scatter,
        u_nm,
        dof,
    }
}

/// A rectangle of this half-width.
fn flat(half_nm: f64) -> Component {
    Component {
        from: Source::PermissibleError,
        u_nm: half_nm / 3_f64.sqrt(),
        dof: None,
    }
}

/// How much of Student's t, or the normal, lies below.
fn student(x: f64, u: f64, dof: Option<f64>) -> f64 {
    match dof {
        None => Normal::standard().cdf(x / u),
        Some(dof) => StudentsT::new(0.0, 1.0, dof).unwrap().cdf(x / u),
    }
}

/// The mean of a function over a rectangle, by Simpson's rule on parts no wider than a fraction of what is smooth.
fn mean_over(half: f64, smooth: f64, of: &dyn Fn(f64) -> f64) -> f64 {
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // a count of a few thousand
    let parts = ((2.0 * half / smooth * 6.0).ceil() as usize).clamp(8, 4_000);
    let wide = 2.0 * half / parts as f64;
    let sum: f64 = (0..parts)
        .map(|i| {
            let from = -half + i as f64 * wide;
            (of(from) + 4.0 * of(from + wide / 2.0) + of(from + wide)) / 6.0
        })
        .sum();
    sum / parts as f64
}

proptest! {
    #![proptest_config(cases(60))]

    /// A t with one rectangle and with two: the same as integrals of the t by Simpson's rule, to a millionth.
    #[test]
    fn folded_as_the_integral_says(
        u in 300.0..6_000.0_f64, dof in prop_oneof![Just(None), (1_u32..30).prop_map(|d| Some(f64::from(d)))],
        first in 500.0..12_000.0_f64, second in 500.0..12_000.0_f64, at in 0.0..5.0_f64,
    ) {
        let whole = (u * u + first * first / 3.0 + second * second / 3.0).sqrt();
        let x = at * whole;
        let one = |x: f64| mean_over(first, u, &|s| student(x - s, u, dof));
        let folded = Distribution::of(&[scatter(u, dof), flat(first)]);
        prop_assert!((folded.below(x) - one(x)).abs() < 1e-6, "{} and {}", folded.below(x), one(x));
        let both = mean_over(second, u.max(second / 60.0), &|s| one(x - s));
        let folded = Distribution::of(&[scatter(u, dof), flat(first), flat(second)]);
        prop_assert!((folded.below(x) - both).abs() < 2e-6, "{} and {both}", folded.below(x));
    }

    /// Two sides known from few readings each: both with their own tails, the same as the integral of one over the density
    /// of the other; and no tail is lost beside a rectangle.
    #[test]
    fn two_with_tails_are_folded_as_the_integral_says(
        a in 500.0..6_000.0_f64, of_a in 2_u32..12, b in 500.0..6_000.0_f64, of_b in 2_u32..12, at in 0.0..4.0_f64,
    ) {
        let (of_a, of_b) = (f64::from(of_a), f64::from(of_b));
        let x = at * a.hypot(b);
        // By the quantiles of the one: each of four thousand stands for as much of it.
        let t = StudentsT::new(0.0, 1.0, of_b).unwrap();
        let n = 4_000;
        let sum: f64 = (0..n)
            .map(|i| student(x - b * t.inverse_cdf((f64::from(i) + 0.5) / f64::from(n)), a, Some(of_a)))
            .sum();
        let right = sum / f64::from(n);
        let folded = Distribution::of(&[scatter(a, Some(of_a)), scatter(b, Some(of_b))]);
        prop_assert!((folded.below(x) - right).abs() < 5e-4, "{} and {right}", folded.below(x));
    }

    /// It grows from nothing to all, is the same on both sides, and its 95 % interval holds 95 %.
    #[test]
    fn it_is_a_distribution(
        parts in prop::collection::vec((0.0..8_000.0_f64, 0_u32..6, any::<bool>()), 1..7), places in prop::collection::vec(-60_000.0..60_000.0_f64, 12),
    ) {
        let parts: Vec<Component> = parts.into_iter().map(|(u, dof, is_flat)| {
            if is_flat { flat(u) } else { scatter(u, (dof > 0).then_some(f64::from(dof))) }
        }).collect();
        let folded = Distribution::of(&parts);
        let mut places = places;
        places.sort_by(f64::total_cmp);
        for pair in places.windows(2) {
            prop_assert!(folded.below(pair[0]) <= folded.below(pair[1]) + 1e-9);
        }
        for x in places {
            prop_assert!((folded.below(x) + folded.below(-x) - 1.0).abs() < 1e-12);
        }
        if parts.iter().any(|p| p.u_nm > 0.0) {
            let expanded = folded.expanded_nm();
            prop_assert!((folded.between(0.0, -expanded, expanded) - 0.95).abs() < 1e-6);
            // No wider than one t with the tails of the heaviest, and no narrower than the widest rectangle.
            let widest = parts.iter().map(|p| p.u_nm).fold(0.0, f64::max);
            prop_assert!(expanded > 1.5 * widest);
        }
    }
}

/// Closed forms: one rectangle, two alike (Simpson's triangle), a point, and the normal and t of the tables.
#[test]
fn closed_forms() {
    let near =
        |found: f64, right: f64| assert!((found - right).abs() < 2e-6, "{found} and {right}");
    let one = Distribution::of(&[flat(1_000.0)]);
    for (x, below) in [
        (0.0, 0.5),
        (500.0, 0.75),
        (950.0, 0.975),
        (1_000.0, 1.0),
        (5_000.0, 1.0),
    ] {
        near(one.below(x), below);
    }
    let two = Distribution::of(&[flat(1_000.0), flat(1_000.0)]);
    for x in [0.0, 300.0, 1_000.0, 1_553.0, 1_900.0, 2_000.0] {
        near(two.below(x), 1.0 - (2_000.0_f64 - x).powi(2) / 8e6);
    }
    // The tail is flat there: a millionth below is more along it.
    assert!((two.expanded_nm() / 2_000.0 - 1.0 + 0.05_f64.sqrt()).abs() < 1e-5);
    let point = Distribution::of(&[]);
    assert_eq!(
        (
            point.expanded_nm(),
            point.between(5.0, 0.0, 5.0),
            point.between(5.1, 0.0, 5.0)
        ),
        (0.0, 1.0, 0.0)
    );
    near(
        Distribution::of(&[scatter(1.0, None)]).expanded_nm(),
        1.959_963_985,
    );
    near(
        Distribution::of(&[scatter(1.0, Some(2.0))]).expanded_nm(),
        4.302_652_730,
    );
    // Independent normals are one normal.
    near(
        Distribution::of(&[scatter(3.0, None), scatter(4.0, None)]).expanded_nm() / 5.0,
        1.959_963_985,
    );
}

/// JCGM 101:2008, 9.2.3 and 9.2.4 (from memory): four normals of u = 1 give ± 3.92, four rectangles of u = 1 give ± 3.88.
#[test]
fn the_guides_own_examples() {
    let four = |part: Component| {
        Distribution::of(&[part.clone(), part.clone(), part.clone(), part]).expanded_nm()
    };
    assert!((four(scatter(1_000.0, None)) - 3_920.0).abs() < 1.0);
    let rectangles = four(flat(1_000.0 * 3_f64.sqrt()));
    assert!((rectangles - 3_880.0).abs() < 4.0, "{rectangles}");
}

/// Student's t with a normal, and with a rectangle besides, whichever of them is the wider: the same as integrals of the t
/// by Simpson's rule, to a millionth.
#[test]
fn a_t_and_a_normal() {
    for dof in [1.0, 2.0, 3.5, 8.0, 40.0, 900.0] {
        for normal in [0.02, 0.3, 1.0, 4.0, 60.0] {
            let cut = 9.0 * normal;
            let of_t = |x: f64| {
                mean_over(cut, (normal / 4.0).min(1.0), &|s| {
                    2.0 * cut / normal
                        * Normal::standard().pdf(s / normal)
                        * student(x - s, 1.0, Some(dof))
                })
            };
            let both = Distribution::of(&[scatter(1.0, Some(dof)), scatter(normal, None)]);
            let three =
                Distribution::of(&[scatter(1.0, Some(dof)), scatter(normal, None), flat(2.0)]);
            for at in [0.0, 0.4, 1.1, 2.3, 6.0, 30.0] {
                let x = at * 1.0_f64.hypot(normal);
                let right = of_t(x);
                assert!(
                    (both.below(x) - right).abs() < 1e-6,
                    "{dof}, {normal}, {x}: {} and {right}",
                    both.below(x)
                );
                let right = mean_over(2.0, 1.0_f64.hypot(normal), &|s| of_t(x - s));
                assert!(
                    (three.below(x) - right).abs() < 1e-6,
                    "{dof}, {normal}, {x}: {} and {right}",
                    three.below(x)
                );
            }
        }
    }
}
