//! A window and a target of a job's own, as they are asked for.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::Unit;
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_arithmetic::verdict::window::{Target, TargetRange, Window};
use serde::{Deserialize, Serialize};

use super::rules::reason;
use super::spec::Spec;

/// Where to aim on a job, as it comes from a screen.
#[derive(Clone, Debug, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TargetOverrideInput {
    /// The window: the sheet's, the book's, or one of the job's own.
    pub window: WindowFrom,
    /// The tight limit of a window of its own, in bench notation, preload with a minus sign; open
    /// where it is empty.
    #[serde(default)]
    pub low: String,
    /// The loose limit of a window of its own.
    #[serde(default)]
    pub high: String,
    pub school: TargetRule,
    /// The clearance aimed at, or the tight end of the range, where one is stated.
    #[serde(default)]
    pub from: String,
    /// The loose end of the range, where one is stated.
    #[serde(default)]
    pub to: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// Why.
    pub reason: String,
}

/// Where a window comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WindowFrom {
    /// The one the sheet works to.
    Sheet,
    /// The book's.
    Book,
    /// Stated here.
    Own,
}

/// Where in a window to aim.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TargetRule {
    /// As the sheet has it.
    Sheet,
    /// Half-way.
    Middle,
    /// A quarter in from the tight limit.
    Tight,
    /// A quarter in from the loose limit.
    Loose,
    /// At a stated clearance.
    At,
    /// Anywhere in a stated range.
    Between,
}

impl TargetOverrideInput {
    /// Why, trimmed.
    ///
    /// # Errors
    /// Where no reason is given.
    pub fn reason(&self) -> Ruled<String> {
        reason(
            &self.reason,
            Some("Say why this box is set otherwise than the sheet says; it stays on the record."),
        )
    }

    /// What it says of a check: the window and the aim; none where both are the sheet's.
    ///
    /// # Errors
    /// The first field that cannot be read or lies outside; `window` where the check has none of a length.
    pub fn resolve(&self, spec: &Spec<'_>) -> Ruled<Option<(Window, TargetRange)>> {
        let length = |field: &'static str, text: &str| {
            notation::parse(text, Some(self.unit), Sign::Any).map_err(|e| Refusal::field(field, e))
        };
        let limit = |field, text: &str| match text.trim() {
            "" => Ok(None),
            text => length(field, text).map(Some),
        };
        let of_sheet = spec.check.working_window();
        let window = match self.window {
            WindowFrom::Sheet => of_sheet,
            WindowFrom::Book => spec.check.window.as_ref().and_then(|w| w.window().ok()),
            WindowFrom::Own => {
                let (low, high) = (limit("low", &self.low)?, limit("high", &self.high)?);
                Some(Window::new(low, high).map_err(|e| Refusal::field("low", e))?)
            }
        };
        let window = window.ok_or_else(|| {
            Refusal::field("window", "This check has no window of a length to aim in.")
        })?;
        let target = match self.school {
            TargetRule::Sheet => spec.check.aim(window),
            TargetRule::Middle => Target::Middle.aim(window),
            TargetRule::Tight => Target::Tight.aim(window),
            TargetRule::Loose => Target::Loose.aim(window),
            TargetRule::At => Target::At(length("from", &self.from)?).aim(window),
            TargetRule::Between => {
                let (from, to) = (length("from", &self.from)?, length("to", &self.to)?);
                Target::Between(from, to).aim(window)
            }
        };
        let aim = target.map_err(|e| Refusal::field("from", e))?;
        let as_sheet = self.school == TargetRule::Sheet && Some(window) == of_sheet;
        Ok((!as_sheet).then_some((window, aim)))
    }
}
