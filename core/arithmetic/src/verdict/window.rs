//! The allowed range of a clearance, and where in it a shop aims.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::units::length::Length;

/// The allowed range of a clearance: float above zero, preload below.
///
/// Either end may be open, not both, and the limits belong to the window.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::verdict::window::Window;
/// let preload = Window::new(Some(Length::from_nm(-50_800)), Some(Length::ZERO)).unwrap();
/// assert!(preload.holds(-50_800.0));
/// assert!(!preload.holds(1.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "Ends", into = "Ends")]
pub struct Window {
    low: Option<Length>,
    high: Option<Length>,
}

/// A window as it crosses the wire.
#[derive(Clone, Copy, Debug, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Ends {
    /// The tight limit in nanometres; none where the window is open to the tight side.
    pub low_nm: Option<Length>,
    /// The loose limit in nanometres; none where the window is open to the loose side.
    pub high_nm: Option<Length>,
}

/// Why two ends are no window.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum WindowError {
    /// Neither end is given.
    #[error("a window needs at least one limit: give low, high or both")]
    BothOpen,
    /// Low above high.
    #[error(
        "the low limit {low} is above the high limit {high}: swap them, or check the signs (preload is negative)"
    )]
    UpsideDown {
        /// The limit given as low.
        low: Length,
        /// The limit given as high.
        high: Length,
    },
}

impl Window {
    /// The window of what is as far below nothing: its limits the other way round.
    #[must_use]
    pub fn mirrored(self) -> Self {
        let turned = |limit: Option<Length>| limit.map(|l| Length::from_nm(-l.nm()));
        Self {
            low: turned(self.high),
            high: turned(self.low),
        }
    }

    /// A window between two limits.
    ///
    /// # Errors
    /// Where both ends are open, or the lower limit is above the upper.
    pub fn new(low: Option<Length>, high: Option<Length>) -> Result<Self, WindowError> {
        match (low, high) {
            (None, None) => Err(WindowError::BothOpen),
            (Some(low), Some(high)) if low > high => Err(WindowError::UpsideDown { low, high }),
            _ => Ok(Self { low, high }),
        }
    }

    /// The tight limit, if there is one.
    #[must_use]
    pub const fn low(self) -> Option<Length> {
        self.low
    }

    /// The loose limit, if there is one.
    #[must_use]
    pub const fn high(self) -> Option<Length> {
        self.high
    }

    /// The tight limit in nanometres, minus infinity where the window is open.
    #[must_use]
    pub fn low_nm(self) -> f64 {
        self.low.map_or(f64::NEG_INFINITY, Length::as_f64)
    }

    /// The loose limit in nanometres, infinity where the window is open.
    #[must_use]
    pub fn high_nm(self) -> f64 {
        self.high.map_or(f64::INFINITY, Length::as_f64)
    }

    /// Whether a clearance in nanometres lies inside, limits included.
    #[must_use]
    pub fn holds(self, clearance_nm: f64) -> bool {
        self.low_nm() <= clearance_nm && clearance_nm <= self.high_nm()
    }

    /// How wide the window is in nanometres, where both ends are closed.
    #[must_use]
    pub fn width_nm(self) -> Option<f64> {
        Some(self.high?.as_f64() - self.low?.as_f64())
    }
}

impl TryFrom<Ends> for Window {
    type Error = WindowError;
    fn try_from(ends: Ends) -> Result<Self, WindowError> {
        Self::new(ends.low_nm, ends.high_nm)
    }
}

impl From<Window> for Ends {
    fn from(window: Window) -> Self {
        Self {
            low_nm: window.low,
            high_nm: window.high,
        }
    }
}

/// Where in the window a shop aims: a school of thought, or the shop's own figure.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target {
    /// Half-way between the limits.
    Middle,
    /// A quarter of the window in from the tight limit.
    Tight,
    /// A quarter of the window in from the loose limit.
    Loose,
    /// A stated clearance.
    At(Length),
    /// Anywhere from the first to the second; nothing is owed inside it.
    Between(Length, Length),
}

/// The range of clearances aimed at, in nanometres; a single figure where both are the same.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TargetRange {
    /// The tight end in nanometres.
    pub from_nm: f64,
    /// The loose end in nanometres.
    pub to_nm: f64,
}

/// Why a target has no place in a window.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum TargetError {
    /// A school needs both limits.
    #[error(
        "the window is open at one end, so it has no middle, tight or loose side: state the target as a figure"
    )]
    NeedsBothLimits,
    /// The target lies outside.
    #[error("the target {0} lies outside the window: move it inside, or correct the window")]
    Outside(Length),
    /// A range from high to low.
    #[error("the target range starts above its end: swap the two figures")]
    UpsideDown,
}

impl Target {
    /// Where this target lies in a window.
    ///
    /// ```
    /// use anvil_arithmetic::units::length::Length;
    /// use anvil_arithmetic::verdict::window::{Target, Window};
    /// let window = Window::new(Some(Length::from_nm(4_000)), Some(Length::from_nm(8_000))).unwrap();
    /// assert_eq!(Target::Tight.aim(window).unwrap().from_nm, 5_000.0);
    /// assert!(Target::At(Length::from_nm(9_000)).aim(window).is_err());
    /// ```
    ///
    /// # Errors
    /// Where a stated figure lies outside the window, a range runs backwards, or an open window has no middle.
    pub fn aim(self, window: Window) -> Result<TargetRange, TargetError> {
        let share = |share: f64| -> Result<TargetRange, TargetError> {
            let width = window.width_nm().ok_or(TargetError::NeedsBothLimits)?;
            let at = window.low_nm() + share * width;
            Ok(TargetRange {
                from_nm: at,
                to_nm: at,
            })
        };
        let inside = |figure: Length| {
            if window.holds(figure.as_f64()) {
                Ok(figure.as_f64())
            } else {
                Err(TargetError::Outside(figure))
            }
        };
        match self {
            Self::Middle => share(0.5),
            Self::Tight => share(0.25),
            Self::Loose => share(0.75),
            Self::At(figure) => {
                let at = inside(figure)?;
                Ok(TargetRange {
                    from_nm: at,
                    to_nm: at,
                })
            }
            Self::Between(from, to) if from > to => Err(TargetError::UpsideDown),
            Self::Between(from, to) => Ok(TargetRange {
                from_nm: inside(from)?,
                to_nm: inside(to)?,
            }),
        }
    }
}

impl TargetRange {
    /// The same, where it runs upwards.
    ///
    /// # Errors
    /// Where it starts above its end.
    pub fn checked(self) -> Result<Self, TargetError> {
        if self.from_nm > self.to_nm {
            return Err(TargetError::UpsideDown);
        }
        Ok(self)
    }

    /// The middle of the range aimed at, in nanometres.
    #[must_use]
    pub fn middle_nm(self) -> f64 {
        f64::midpoint(self.from_nm, self.to_nm)
    }

    /// How far a clearance is from the range aimed at, in nanometres; nothing inside it.
    #[must_use]
    pub fn distance_nm(self, clearance_nm: f64) -> f64 {
        (self.from_nm - clearance_nm)
            .max(clearance_nm - self.to_nm)
            .max(0.0)
    }
}
