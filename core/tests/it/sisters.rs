//! Like its sisters: the prediction interval, against tables and against what it promises.

use anvil_arithmetic::verdict::sisters::Sisters;
use proptest::prelude::*;

fn sisters(figures: &[f64]) -> Sisters {
    let n = figures.len() as f64;
    let mean_nm = figures.iter().sum::<f64>() / n;
    let squares: f64 = figures.iter().map(|f| (f - mean_nm).powi(2)).sum();
    Sisters {
        boxes: figures.len(),
        mean_nm,
        s_nm: (squares / (n - 1.0)).sqrt(),
    }
}

/// Two-sided 1 % points of Student's t, from tables: 4.604 for 4, 3.250 for 9, 2.756 for 29 degrees of freedom.
#[test]
fn the_interval_is_that_of_one_more() {
    for (boxes, t) in [(5, 4.604), (10, 3.250), (30, 2.756)] {
        let found = Sisters {
            boxes,
            mean_nm: 0.0,
            s_nm: 1_000.0,
        }
        .beside(0.0)
        .unwrap();
        let n = f64::from(u32::try_from(boxes).unwrap());
        let within = t * 1_000.0 * (1.0 + 1.0 / n).sqrt();
        assert!((found.within_nm - within).abs() < 1.0, "{boxes}: {found:?}");
    }
}

#[test]
fn too_few_boxes_or_all_alike_say_nothing() {
    assert_eq!(sisters(&[1.0, 2.0, 3.0, 4.0]).beside(9.0), None);
    assert_eq!(sisters(&[7.0; 12]).beside(9.0), None);
}

proptest! {
    /// None of the sisters themselves would have been called unlike, were it far out only by a little.
    #[test]
    fn a_figure_at_the_mean_is_like_them(
        figures in prop::collection::vec(-1e5..1e5_f64, 5..40), off in 0.0..3.0_f64,
    ) {
        let sisters = sisters(&figures);
        let Some(found) = sisters.beside(sisters.mean_nm) else { return Ok(()) };
        prop_assert!(!found.unlike);
        let at = sisters.beside(sisters.mean_nm + off * found.within_nm).unwrap();
        prop_assert_eq!(at.unlike, off > 1.0 + 1e-12);
    }
}
