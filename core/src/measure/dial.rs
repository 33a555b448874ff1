//! Dial travel: the indicator is zeroed with the shaft home, the shaft is moved until it stops,
//! and the travel is read off; several times, turning the shaft between trials.

use statrs::distribution::{ChiSquared, ContinuousCDF};
use thiserror::Error;

use crate::estimate::{Estimate, Origin, Part, combine};
use crate::gauge::{Gauge, Repeatability};
use crate::length::Length;
use crate::working::{Line, Working};

/// What differs between the trial build the readings were taken in and the final build, and by
/// how much it moves the clearance: `c_final = c_trial + Σ by`.
#[derive(Clone, Debug, PartialEq)]
pub struct Adjustment {
    /// What differs, in words.
    pub what: String,
    /// How much the clearance grows (or shrinks, below zero) towards the final build.
    pub by: Length,
    /// The ± limits of `by`; taken as a rectangular spread, `t/√3`.
    pub tolerance: Length,
}

/// Why travels give no estimate.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum DialError {
    /// There is nothing to work on.
    #[error("there is no reading yet: take one")]
    NoReadings,
    /// A travel below zero.
    #[error(
        "reading {trial} is below zero: a travel is zero or more, so zero the dial with the shaft home"
    )]
    Negative {
        /// Which reading, counted from 1.
        trial: usize,
    },
    /// One reading and no idea of the scatter.
    #[error(
        "one reading says nothing of its own scatter and this gauge has no stated repeatability: take a second reading"
    )]
    ScatterUnknown,
    /// A tolerance below zero.
    #[error("adjustment “{what}”: its tolerance is a ± figure, so it is zero or more")]
    NegativeTolerance {
        /// The adjustment's own words.
        what: String,
    },
}

/// Estimates a clearance from dial travels.
///
/// Mean and scatter come from the travels; where the gauge states a repeatability it stands in
/// for the readings' own scatter (JCGM 100, 4.2.4), unless they scatter more than it explains
/// (chi-square, 5 %). Scale step, permissible error and adjustments are added root-sum-square.
///
/// ```
/// use anvil_core::{gauge::Gauge, length::Length, measure::dial::estimate};
/// let gauge = Gauge::new(Length::from_nm(10_000), Length::from_nm(12_000), None).unwrap();
/// let travels = [310_000, 316_000, 310_000].map(Length::from_nm);
/// let found = estimate(&travels, gauge, &[]).unwrap();
/// assert_eq!(found.clearance_nm, 312_000.0);
/// assert_eq!(found.spread_nm, 6_000.0);
/// ```
pub fn estimate(
    travels: &[Length],
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<Estimate, DialError> {
    if travels.is_empty() {
        return Err(DialError::NoReadings);
    }
    if let Some(at) = travels.iter().position(|t| *t < Length::ZERO) {
        return Err(DialError::Negative { trial: at + 1 });
    }
    if let Some(bad) = adjustments.iter().find(|a| a.tolerance < Length::ZERO) {
        return Err(DialError::NegativeTolerance {
            what: bad.what.clone(),
        });
    }
    let mean = mean_nm(travels);
    let scatter = scatter(travels, gauge.repeatability())?;
    let n = travels.len() as f64;
    let mut parts = vec![
        Part {
            from: scatter.from,
            u_nm: scatter.s_nm / n.sqrt(),
            dof: scatter.dof,
        },
        Part {
            from: Origin::Resolution,
            u_nm: gauge.u_resolution_nm(),
            dof: None,
        },
        Part {
            from: Origin::PermissibleError,
            u_nm: gauge.u_error_nm(),
            dof: None,
        },
    ];
    parts.extend(adjustments.iter().map(|a| Part {
        from: Origin::Adjustment,
        u_nm: a.tolerance.as_f64() / 3_f64.sqrt(),
        dof: None,
    }));
    parts.retain(|p| p.u_nm > 0.0);
    let (u_nm, dof) = combine(&parts);
    let clearance_nm = mean + adjustments.iter().map(|a| a.by.as_f64()).sum::<f64>();
    let smallest = travels.iter().min().copied().unwrap_or_default();
    let largest = travels.iter().max().copied().unwrap_or_default();
    let mut estimate = Estimate {
        clearance_nm,
        u_nm,
        dof,
        readings: travels.len(),
        spread_nm: largest.as_f64() - smallest.as_f64(),
        parts,
        working: Vec::new(),
    };
    estimate.working = working(travels, mean, &scatter, adjustments, &estimate);
    Ok(estimate)
}

/// The mean in nanometres; the sum is taken in whole numbers, so nearly equal readings lose nothing.
fn mean_nm(travels: &[Length]) -> f64 {
    let first = travels[0].nm();
    let over: i128 = travels.iter().map(|t| i128::from(t.nm() - first)).sum();
    first as f64 + over as f64 / travels.len() as f64
}

struct Scatter {
    s_nm: f64,
    dof: Option<f64>,
    from: Origin,
    /// The readings scatter more than the gauge's repeatability explains.
    beyond_gauge: bool,
}

fn scatter(travels: &[Length], stated: Option<Repeatability>) -> Result<Scatter, DialError> {
    let own = (travels.len() > 1).then(|| {
        let mean = mean_nm(travels);
        let squares: f64 = travels.iter().map(|t| (t.as_f64() - mean).powi(2)).sum();
        let dof = travels.len() as f64 - 1.0;
        (squares, dof)
    });
    match (own, stated) {
        (None, None) => Err(DialError::ScatterUnknown),
        (Some((squares, dof)), None) => Ok(Scatter {
            s_nm: (squares / dof).sqrt(),
            dof: Some(dof),
            from: Origin::Scatter,
            beyond_gauge: false,
        }),
        (own, Some(stated)) => {
            let excess = own.filter(|(squares, dof)| {
                ChiSquared::new(*dof)
                    .is_ok_and(|chi| squares / (stated.s_nm * stated.s_nm) > chi.inverse_cdf(0.95))
            });
            Ok(match excess {
                Some((squares, dof)) => Scatter {
                    s_nm: (squares / dof).sqrt(),
                    dof: Some(dof),
                    from: Origin::Scatter,
                    beyond_gauge: true,
                },
                None => Scatter {
                    s_nm: stated.s_nm,
                    dof: stated.dof,
                    from: Origin::Repeatability,
                    beyond_gauge: false,
                },
            })
        }
    }
}

/// A line of more figures than this is not read by anyone.
const MOST_SHOWN: usize = 8;

fn working(
    travels: &[Length],
    mean: f64,
    scatter: &Scatter,
    adjustments: &[Adjustment],
    estimate: &Estimate,
) -> Working {
    let mut lines = Vec::new();
    let n = travels.len();
    if n == 1 {
        lines.push(Line::new().text("one reading, ").length(mean));
    } else {
        let mut line = Line::new().text("(");
        for (i, travel) in travels.iter().take(MOST_SHOWN).enumerate() {
            if i > 0 {
                line = line.text(" + ");
            }
            line = line.length(travel.as_f64());
        }
        if n > MOST_SHOWN {
            line = line.text(" + …");
        }
        lines.push(line.text(format!(") ÷ {n} = ")).length(mean));
    }
    if !adjustments.is_empty() {
        let mut line = Line::new().length(mean);
        for a in adjustments {
            line = line
                .signed_length(a.by.as_f64())
                .text(format!(" ({})", a.what));
        }
        lines.push(line.text(" = ").clearance(estimate.clearance_nm));
    }
    let why = match (scatter.from, scatter.beyond_gauge, n) {
        (Origin::Repeatability, _, 1) => "scatter from the gauge's stated repeatability, ",
        (Origin::Repeatability, _, _) => {
            "the gauge's stated repeatability stands for the scatter, "
        }
        (_, true, _) => {
            "the readings scatter more than the gauge explains, so their own scatter counts, "
        }
        _ => "the readings' own scatter, ",
    };
    lines.push(
        Line::new()
            .text(why)
            .text("s = ")
            .length(scatter.s_nm)
            .text(format!(" ÷ √{n}, with the gauge's step and error: u = "))
            .length(estimate.u_nm),
    );
    lines.push(
        Line::new()
            .text("95 %: ± ")
            .number(crate::judge::t95(estimate.dof), 2)
            .text(" × u = ± ")
            .length(estimate.expanded_nm()),
    );
    lines
}
