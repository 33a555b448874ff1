//! Pictures of a job's box: what each is of, and how many there may be.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use chrono::{DateTime, TimeDelta, Utc};

use crate::sheet::Sheet;

/// The most pictures of one job.
pub const MOST_PICTURES: usize = 120;

/// The box itself, a part of it, or a step of its build.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PictureOf<'a> {
    Box,
    /// A part or an item, by its key.
    Part(&'a str),
    /// A step of the build, by its key.
    Step(&'a str),
}

impl<'a> PictureOf<'a> {
    /// From the keys of a part and a step, of which one may be there.
    ///
    /// # Errors
    /// Where both are there, or the sheet has none of that key.
    pub fn read(sheet: &Sheet, part: &'a str, step: &'a str) -> Ruled<Self> {
        match (part, step) {
            ("", "") => Ok(Self::Box),
            (part, "") if sheet.name_of_part(part).is_some() => Ok(Self::Part(part)),
            (_, "") => Err(Refusal::field(
                "part",
                format!(
                    "The box has no part “{part}”: keep the picture with the box, or with another part."
                ),
            )),
            ("", step) if sheet.build.iter().any(|s| s.key == step) => Ok(Self::Step(step)),
            ("", _) => Err(Refusal::field(
                "step",
                format!(
                    "The build has no step “{step}”: keep the picture with the box, or with another step."
                ),
            )),
            _ => Err(Refusal::field(
                "step",
                "A picture is of a part or of a step: leave one of them out.",
            )),
        }
    }

    /// As people say it; a part or a step that the sheet has no longer by its key.
    #[must_use]
    pub fn words(self, sheet: &Sheet) -> String {
        match self {
            Self::Box => "The box".into(),
            Self::Part(key) => sheet.told_apart(key).unwrap_or_else(|| key.to_owned()),
            Self::Step(key) => {
                let step = sheet.build.iter().find(|s| s.key == key);
                step.map_or_else(|| key.to_owned(), |s| s.what.clone())
            }
        }
    }
}

/// So many days a picture that was taken out can be put back.
const DAYS_OUT: i64 = 30;

/// When a picture that was taken out then is gone for good.
#[must_use]
pub fn gone_at(struck_at: DateTime<Utc>) -> DateTime<Utc> {
    struck_at + TimeDelta::days(DAYS_OUT)
}

/// Whether a picture that was taken out then is gone for good by now.
#[must_use]
pub fn is_gone(struck_at: DateTime<Utc>, now: DateTime<Utc>) -> bool {
    gone_at(struck_at) <= now
}

/// Another picture may be kept.
///
/// # Errors
/// Where there are so many that nobody looks at them.
pub fn may_keep_another(there: usize) -> Ruled<()> {
    if there < MOST_PICTURES {
        return Ok(());
    }
    Err(Refusal::conflict(
        "too-many-pictures",
        format!("This job has {MOST_PICTURES} pictures: take out what nobody needs first."),
    ))
}
