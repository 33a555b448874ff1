//! How much readings of one kind scatter: their own deviation, or the gauge's known repeatability
//! in its place (JCGM 100:2008, 4.2.4).

use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF, FisherSnedecor};

use crate::measure::{MeasureError, mean_nm};
use crate::uncertainty::estimate::{Component, Source};
use crate::uncertainty::gauge::Repeatability;
use crate::units::length::Length;
use crate::units::working::Line;

/// The scatter that counts for some readings.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Scatter {
    /// The standard deviation of one reading in nanometres.
    pub s_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// Whether it is the readings' own or the gauge's.
    pub from: Source,
    /// The readings scatter more than the gauge's repeatability explains.
    pub beyond_gauge: bool,
}

/// The scatter within groups of readings of one length each: the sum of squared deviations from each group's
/// mean in square nanometres, and its degrees of freedom; none where no group has two.
pub(super) fn within(groups: &[Vec<Length>]) -> Option<(f64, f64)> {
    let (mut squares, mut dof) = (0.0, 0.0);
    for group in groups.iter().filter(|g| !g.is_empty()) {
        let mean = mean_nm(group);
        let off = group.iter().map(|r| (r.as_f64() - mean).powi(2));
        squares += off.sum::<f64>();
        dof += group.len() as f64 - 1.0;
    }
    (dof > 0.0).then_some((squares, dof))
}

/// Chooses between the readings' own scatter (`own`: the sum of their squared deviations, and its
/// degrees of freedom) and the gauge's stated repeatability. The stated figure stands, unless the
/// readings scatter more than it explains, at 5 %: by chi-square, with what their rounding to whole steps (`step_nm`)
/// adds, where it is only stated; by the ratio of variances where it was got from readings itself.
///
/// ```
/// use anvil_arithmetic::uncertainty::estimate::Source;
/// use anvil_arithmetic::uncertainty::gauge::Repeatability;
/// use anvil_arithmetic::measure::scatter;
/// let stated = Some(Repeatability { s_nm: 3_000.0, dof: None });
/// assert_eq!(scatter(Some((2e6, 2.0)), stated, 0.0).unwrap().from, Source::Repeatability);
/// assert!(scatter(Some((4e8, 2.0)), stated, 0.0).unwrap().beyond_gauge);
/// assert!(scatter(None, None, 0.0).is_err());
/// ```
///
/// # Errors
/// Where neither is known.
pub fn scatter(
    own: Option<(f64, f64)>,
    stated: Option<Repeatability>,
    step_nm: f64,
) -> Result<Scatter, MeasureError> {
    let of_own = |(squares, dof): (f64, f64), beyond_gauge| Scatter {
        s_nm: (squares / dof).sqrt(),
        dof: Some(dof),
        from: Source::Scatter,
        beyond_gauge,
    };
    match (own.filter(|(_, dof)| *dof > 0.0), stated) {
        (None, None) => Err(MeasureError::ScatterUnknown),
        (Some(own), None) => Ok(of_own(own, false)),
        (own, Some(stated)) => {
            let excess = own.filter(|(squares, dof)| {
                let per_freedom = squares / dof;
                match stated.dof {
                    None => {
                        let rounding = step_nm * step_nm / 12.0;
                        let explained = stated.s_nm * stated.s_nm + rounding;
                        ChiSquared::new(*dof)
                            .is_ok_and(|chi| squares / explained > chi.inverse_cdf(0.95))
                    }
                    // Known from readings, it is uncertain itself.
                    Some(known) => FisherSnedecor::new(*dof, known).is_ok_and(|f| {
                        per_freedom / (stated.s_nm * stated.s_nm) > f.inverse_cdf(0.95)
                    }),
                }
            });
            Ok(excess.map_or(
                Scatter {
                    s_nm: stated.s_nm,
                    dof: stated.dof,
                    from: Source::Repeatability,
                    beyond_gauge: false,
                },
                |own| of_own(own, true),
            ))
        }
    }
}

impl Scatter {
    /// What it adds to the uncertainty of a mean of `n`.
    pub(crate) fn part(&self, n: usize) -> Component {
        Component {
            from: self.from,
            u_nm: self.s_nm / (n as f64).sqrt(),
            dof: self.dof,
        }
    }

    /// Where it comes from, and what it comes to with the rest.
    pub(crate) fn line(&self, n: usize, u_nm: f64) -> Line {
        let why = match (self.from, self.beyond_gauge, n) {
            (Source::Repeatability, _, 1) => "scatter from the gauge's known repeatability, ",
            (Source::Repeatability, _, _) => {
                "the gauge's known repeatability stands for the scatter, "
            }
            (_, true, _) => {
                "the readings scatter more than the gauge explains, so their own scatter counts, "
            }
            _ => "the readings' own scatter, ",
        };
        Line::new()
            .text(why)
            .text("s = ")
            .length(self.s_nm)
            .text(format!(" ÷ √{n}, with the gauge's step and error: u = "))
            .length(u_nm)
    }
}

/// Scatter pooled over a shop's signed checks with one gauge used one way (JCGM 100:2008, 4.2.4):
/// sums of squared deviations and of degrees of freedom.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Pool {
    /// The sum of squared deviations, square nanometres.
    pub squares: f64,
    /// The degrees of freedom behind it.
    pub dof: f64,
}

/// Fewer degrees of freedom than this say too little of a gauge to stand for its register's figure
/// (the shop's rule; no source).
const ENOUGH_DOF: f64 = 10.0;

impl Pool {
    /// The repeatability to count with: the shop's own where there is enough of it, otherwise what
    /// the register states.
    ///
    /// ```
    /// use anvil_arithmetic::measure::Pool;
    /// let pool = Pool { squares: 20.0 * 9e6, dof: 20.0 };
    /// let known = pool.or_stated(None).unwrap();
    /// assert_eq!((known.s_nm, known.dof), (3_000.0, Some(20.0)));
    /// assert_eq!(Pool { squares: 9e6, dof: 1.0 }.or_stated(None), None);
    /// ```
    #[must_use]
    pub fn or_stated(self, stated: Option<Repeatability>) -> Option<Repeatability> {
        let own = Repeatability {
            s_nm: (self.squares / self.dof).sqrt(),
            dof: Some(self.dof),
        };
        // Readings all alike on a coarse step would say that nothing scatters.
        let tells = self.dof >= ENOUGH_DOF && own.s_nm.is_finite() && own.s_nm > 0.0;
        if tells { Some(own) } else { stated }
    }
}
