//! What the thickness of pieces adds to what is known of a clearance.

use std::ops::Add;

use crate::stock::drawer::{Grade, Stock};
use crate::uncertainty::estimate::{Component, Source};

/// What is not known of the pieces of a stack: the variance that it adds, and how few independent errors that is made of.
///
/// Each error lies anywhere between its limits alike. One alone is a rectangle; many come to the normal.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct PiecesDoubt {
    /// The variance, in square nanometres.
    pub variance: f64,
    /// The sum of the squares of the variances of the independent errors, in nanometres to the fourth.
    pub squares: f64,
}

impl PiecesDoubt {
    /// Nothing is not known.
    pub const NONE: Self = Self {
        variance: 0.0,
        squares: 0.0,
    };

    /// One error of this standard uncertainty in nanometres.
    #[must_use]
    pub const fn one(u_nm: f64) -> Self {
        let variance = u_nm * u_nm;
        Self {
            variance,
            squares: variance * variance,
        }
    }

    /// What is normal, of this variance in square nanometres.
    #[must_use]
    pub const fn normal(variance: f64) -> Self {
        Self {
            variance,
            squares: 0.0,
        }
    }

    /// So many pieces of one size, each known to `u_nm` nanometres. Those that nobody measured are out of one packet and
    /// off alike; each that was measured is off by itself.
    ///
    /// ```
    /// use anvil_arithmetic::stock::drawer::Grade;
    /// use anvil_arithmetic::stock::pieces::PiecesDoubt;
    /// assert_eq!(PiecesDoubt::of_size(3.0, 2, Grade::Marked).variance, 36.0);
    /// assert_eq!(PiecesDoubt::of_size(3.0, 2, Grade::Miked).variance, 18.0);
    /// ```
    ///
    /// # Formula
    /// `(n u)²` where all have one error, `n u²` where each has its own (JCGM 100:2008, 5.2.2 and 5.1.2; that a packet's
    /// pieces are off alike is common practice, no source).
    #[must_use]
    pub fn of_size(u_nm: f64, count: u32, grade: Grade) -> Self {
        let n = f64::from(count);
        match grade {
            Grade::Marked => Self::one(n * u_nm),
            Grade::Miked | Grade::Used => {
                let each = Self::one(u_nm);
                Self {
                    variance: n * each.variance,
                    squares: n * each.squares,
                }
            }
        }
    }

    /// The pieces of a stack in the order of [`Stock::order`], so that those out of one packet lie beside each other.
    pub fn of_stack<'s>(stack: impl IntoIterator<Item = &'s Stock>) -> Self {
        let mut sum = Self::NONE;
        let mut run: Option<(&Stock, u32)> = None;
        for stock in stack {
            run = match run {
                Some((line, count)) if line.order(stock).is_eq() => Some((line, count + 1)),
                _ => {
                    sum = sum + Self::of_run(run);
                    Some((stock, 1))
                }
            };
        }
        sum + Self::of_run(run)
    }

    fn of_run(run: Option<(&Stock, u32)>) -> Self {
        run.map_or(Self::NONE, |(line, count)| {
            Self::of_size(line.u_nm, count, line.grade)
        })
    }

    /// The same where a clearance moves by so much for each that they are thicker by.
    #[must_use]
    pub fn by_effect(self, effect: f64) -> Self {
        let squared = effect * effect;
        Self {
            variance: squared * self.variance,
            squares: squared * squared * self.squares,
        }
    }

    /// As contributions to a distribution: a rectangle and a normal that have its variance and its fourth moment.
    ///
    /// # Formula
    /// The excess of the fourth moment is `−6/5 Σ uᵢ⁴` of rectangles and nothing of a normal, and adds up over what is
    /// independent; so the rectangle has the variance `√(Σ uᵢ⁴)`. One rectangle is itself.
    #[must_use]
    pub fn parts(self) -> [Component; 2] {
        let flat = self.squares.sqrt().min(self.variance);
        let rest = (self.variance - flat).max(0.0);
        [(Source::Tolerance, flat), (Source::Pieces, rest)].map(|(from, variance)| Component {
            from,
            u_nm: variance.sqrt(),
            dof: None,
        })
    }
}

impl Add for PiecesDoubt {
    type Output = Self;

    fn add(self, other: Self) -> Self {
        Self {
            variance: self.variance + other.variance,
            squares: self.squares + other.squares,
        }
    }
}
