//! The usual difference against certified figures and tables.

use anvil_arithmetic::uncertainty::bias::{CameOut, ENOUGH_BOXES, bias, counted_in};

fn boxes(differences: impl IntoIterator<Item = f64>, u: f64) -> Vec<CameOut> {
    let one = |d| CameOut {
        predicted_nm: 0.0,
        u_predicted_nm: u,
        achieved_nm: d,
        u_achieved_nm: 0.0,
    };
    differences.into_iter().map(one).collect()
}

#[test]
fn mean_and_spread_of_certified_data() {
    // NIST StRD, univariate, NumAcc2 (from memory): 1.2, then 1.1 and 1.3 five hundred times over;
    // certified mean 1.2 and standard deviation 0.1.
    let data = std::iter::once(1.2).chain((0..1000).map(|i| if i % 2 == 0 { 1.1 } else { 1.3 }));
    let found = bias(&boxes(data, 1.0)).unwrap();
    assert!((found.mean_nm - 1.2).abs() < 1e-12);
    assert!((found.spread_nm - 0.1).abs() < 1e-12);
    assert!(found.matters && !found.spreads_more);
    assert!((found.u_nm - 0.1 / 1001_f64.sqrt()).abs() < 1e-12);
    assert!((found.dof - 1000.0).abs() < 1e-12);
}

#[test]
fn more_spread_than_the_uncertainties_explain_is_counted_with() {
    // Chi-square, 4 degrees of freedom, 95 %: 9.488 (tables). The squares of -2 -1 0 1 2 sum to 10.
    let spread = [-2.0, -1.0, 0.0, 1.0, 2.0];
    let limit = (10.0_f64 / 9.488).sqrt();
    let calm = bias(&boxes(spread, limit * 1.001)).unwrap();
    assert!(!calm.spreads_more && !calm.matters);
    assert!((calm.u_nm - (2.5_f64 / 5.0).sqrt()).abs() < 1e-12);
    let wild = bias(&boxes(spread, limit * 0.999)).unwrap();
    assert!(wild.spreads_more);
    let unexplained = 2.5 - (limit * 0.999).powi(2);
    assert!((wild.u_nm - (0.5 + unexplained).sqrt()).abs() < 1e-9);
}

#[test]
fn the_mean_matters_past_students_t() {
    // Student's t, 4 degrees of freedom, two-sided 95 %: 2.776 (tables). With deviations of
    // -2 -1 0 1 2 the standard error of the mean is 0.7071.
    let shifted = |by: f64| bias(&boxes([-2.0, -1.0, 0.0, 1.0, 2.0].map(|d| d + by), 9.0)).unwrap();
    assert!(!shifted(2.776 * std::f64::consts::FRAC_1_SQRT_2 - 0.01).matters);
    assert!(shifted(2.776 * std::f64::consts::FRAC_1_SQRT_2 + 0.01).matters);
    assert!(shifted(-2.776 * std::f64::consts::FRAC_1_SQRT_2 - 0.01).matters);
}

#[test]
fn of_too_few_nothing_is_usual_and_none_counts_for_nothing() {
    assert_eq!(bias(&boxes(vec![1.0; ENOUGH_BOXES - 1], 1.0)), None);
    assert!(bias(&boxes(vec![1.0; ENOUGH_BOXES], 1.0)).is_some());
    let (nm, u, dof) = counted_in((100.0, 3.0, Some(2.0)), (0.0, 0.0, 9.0));
    assert!((nm - 100.0).abs() < 1e-12 && (u - 3.0).abs() < 1e-12);
    assert!((dof.unwrap() - 2.0).abs() < 1e-9);
}
