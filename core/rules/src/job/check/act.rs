//! What can be done to a check, and what undoes it.

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::materials::thermal::REFERENCE_C;
use anvil_arithmetic::measure::{Method, ReadingInput};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::{Length, Unit};
use serde::{Deserialize, Serialize};

use super::record::{Assembly, ReadingMark, Record, Setting};
use super::shims::ShimsInput;
use super::spec::Spec;
use super::target::{TargetOverrideInput, TargetRule, WindowFrom};
use crate::job::undo::Undo;
use crate::sheet::PartKind;

/// What somebody does to a check.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "act", rename_all = "snake_case", deny_unknown_fields)]
pub enum CheckAct {
    /// A reading is taken.
    Read(NewReading),
    /// It is said which way of measuring counts, where there are several.
    Way { way: Method },
    /// It is said how warm box and parts are while they are measured, °C.
    Bench { bench_c: f64 },
    /// Something was seen to before readings are believed, or was not.
    Tick {
        /// What, in the sheet's words.
        tick: String,
        /// It is so.
        done: bool,
    },
    /// Something is said of a reading.
    Mark {
        reading_no: i32,
        mark: ReadingMark,
        /// Why; needed for striking out.
        #[serde(default)]
        reason: String,
    },
    /// It is said what is fitted now.
    Fitted {
        /// The thickness, in bench notation.
        typed: String,
        /// The unit a bare figure is in.
        unit: Unit,
    },
    /// It is said where to aim on this job, in which window, and why.
    Aim(TargetOverrideInput),
    /// The usual difference of boxes before is counted in, or left out again.
    Usual { counts: bool },
    /// Pieces are chosen; those in the drawer are set aside.
    Choose(NewPieces),
    /// A piece was ground to size: a line of its own in the drawer, chosen, and fitted.
    Ground(GroundPiece),
    /// The chosen pieces go back to the drawer.
    LetGo {},
    /// The chosen pieces are in; a new round of measuring begins.
    Fit {
        /// The pieces that came out are sound and go back in the drawer.
        #[serde(default)]
        put_back: bool,
    },
    /// What was noted as fitted was not.
    UndoFit {},
    /// A clutch pack was laid out.
    Lay(NewLayout),
    /// The shims at the ends of a selector's shaft lie so, or were moved so.
    Shims(ShimsInput),
    /// It is signed off; with a reason where it is not plainly in the window.
    Sign {
        #[serde(default)]
        reason: String,
    },
    /// Its signature is taken back, with the reason.
    Reopen {
        #[serde(default)]
        reason: String,
    },
}

/// A reading as typed.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewReading {
    /// The way it was taken.
    pub way: Method,
    /// What was typed, field by field.
    pub entry: ReadingInput,
    /// The unit a bare length is in.
    pub unit: Unit,
    /// The gauge; the usual one for the way where it is left out.
    #[serde(default)]
    pub gauge_key: Option<String>,
}

/// Pieces chosen.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewPieces {
    /// Each size once, with how many of it.
    pub pieces: Vec<SizeCount>,
    /// The family, where it is another than the first that sets the check.
    #[serde(default)]
    pub family_key: Option<String>,
    /// What of that family comes out for them, together, in nanometres.
    #[serde(default)]
    pub out_nm: Option<Length>,
    /// They are added to what is in, which stays.
    #[serde(default)]
    pub stays: bool,
}

impl NewPieces {
    /// Of another family than the first: its key, and what comes out for them, together.
    ///
    /// # Errors
    /// Where one is given without the other, or pieces of another family are to be added to what is in.
    pub fn instead_of(&self) -> Ruled<Option<(&str, Length)>> {
        let instead_of = match (&self.family_key, self.out_nm) {
            (Some(family), Some(out)) => Some((family.as_str(), out)),
            (None, None) => None,
            _ => {
                return Err(Refusal::field(
                    "out_nm",
                    "Pieces of another family come with what comes out for them: give family_key and out_nm, or neither.",
                ));
            }
        };
        if self.stays && instead_of.is_some() {
            return Err(Refusal::field(
                "stays",
                "Pieces of another family go in for some that come out: what is in cannot stay.",
            ));
        }
        Ok(instead_of)
    }

    /// The pieces of a choice, to be chosen again.
    fn again(setting: &Setting, spec: &Spec<'_>) -> Self {
        let other = spec.family() != Some(setting.family_key.as_str());
        Self {
            pieces: setting.counts(),
            family_key: other.then(|| setting.family_key.clone()),
            out_nm: other.then(|| Length::from_nm(setting.fitted_before_nm)),
            stays: !other && setting.stays_nm() > 0,
        }
    }
}

/// A piece that was ground to size for a check.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GroundPiece {
    /// The size it was marked as, where it came out of the drawer; none where it is the one that was fitted.
    pub marked_nm: Option<Length>,
    /// What it measures now, in bench notation.
    pub measured: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// The key of the micrometer; the one that is taken up where it is left out.
    #[serde(default)]
    pub gauge_key: Option<String>,
    /// The pieces that come out for it are sound and go back in the drawer.
    #[serde(default)]
    pub put_back: bool,
}

/// A clutch pack as it is laid out.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewLayout {
    /// The kinds of its plates from the piston outwards, 1 to 60.
    pub plates: Vec<PartKind>,
    /// The frictions are soaked; dry otherwise.
    pub soaked: bool,
    /// How many return springs are fitted, where they were counted.
    #[serde(default)]
    pub springs: Option<u32>,
}

impl CheckAct {
    /// It is judged on what the screen showed, and so is refused where that has changed since. A reading, a tick and a
    /// word on a reading are facts, whatever has changed.
    #[must_use]
    pub const fn rests_on_what_was_seen(&self) -> bool {
        !matches!(self, Self::Read(_) | Self::Tick { .. } | Self::Mark { .. })
    }

    /// Pieces go in or out of a drawer with it.
    #[must_use]
    pub const fn moves_pieces(&self) -> bool {
        matches!(
            self,
            Self::Choose(_)
                | Self::Ground(_)
                | Self::LetGo {}
                | Self::Fit { .. }
                | Self::UndoFit {}
        )
    }

    /// What undoes it, by how the check stood before; `counted` is the way that counted then. None where it is put right at
    /// its own place (a tick, a struck reading that is struck again), where it is said anew (which shims lie where), or
    /// where it was itself an undoing.
    #[must_use]
    pub fn undoing(
        &self,
        before: &Record,
        spec: &Spec<'_>,
        counted: Option<Method>,
    ) -> Option<Undo<Self>> {
        let open = before.open_setting();
        Some(match self {
            Self::Mark {
                reading_no,
                mark: ReadingMark::Struck,
                ..
            } => Undo::of(
                "Struck out.",
                Self::Mark {
                    reading_no: *reading_no,
                    mark: ReadingMark::Restored,
                    reason: String::new(),
                },
            ),
            Self::Read(_)
            | Self::Mark { .. }
            | Self::Tick { .. }
            | Self::Shims(_)
            | Self::UndoFit {}
            | Self::Reopen { .. } => return None,
            Self::Way { way } => Undo::of(
                "Another way counts.",
                Self::Way {
                    way: counted.filter(|c| c != way)?,
                },
            ),
            Self::Bench { bench_c } => {
                let was = before.head.bench_c.unwrap_or(REFERENCE_C);
                Undo::of(
                    format!("Measured at {bench_c} °C."),
                    Self::Bench { bench_c: was },
                )
            }
            Self::Fitted { .. } => Undo::of(
                "Kept as what is fitted.",
                Self::Fitted {
                    typed: in_mm(before.head.fitted_nm? as f64),
                    unit: Unit::Mm,
                },
            ),
            Self::Aim(_) => Undo::of(
                "Set otherwise on this job.",
                Self::Aim(aimed_before(before)),
            ),
            Self::Usual { counts } => Undo::of(
                if *counts {
                    "It goes into the choices now."
                } else {
                    "It is left out of the choices now."
                },
                Self::Usual { counts: !counts },
            ),
            Self::Choose(new) => Undo {
                said: "chosen.".into(),
                pieces: new.pieces.clone(),
                act: Self::LetGo {},
            },
            Self::LetGo {} => {
                let again = NewPieces::again(open?, spec);
                Undo {
                    said: "let go.".into(),
                    pieces: again.pieces.clone(),
                    act: Self::Choose(again),
                }
            }
            Self::Ground(_) => Undo::of(
                "A line of its own in the drawer, and fitted.",
                Self::UndoFit {},
            ),
            Self::Fit { .. } => Undo::of("Noted as fitted.", Self::UndoFit {}),
            Self::Lay(_) => {
                let Assembly {
                    plates,
                    soaked,
                    springs,
                    ..
                } = before.assemblies.last()?;
                let was = NewLayout {
                    plates: plates.clone(),
                    soaked: *soaked,
                    springs: *springs,
                };
                Undo::of("Laid otherwise.", Self::Lay(was))
            }
            Self::Sign { .. } => Undo::of(
                "Signed off.",
                Self::Reopen {
                    reason: "signed off by mistake".into(),
                },
            ),
        })
    }
}

/// A length that a person could have typed.
fn in_mm(nm: f64) -> String {
    format!("{} mm", nm / 1e6)
}

/// The window and target as they were.
fn aimed_before(before: &Record) -> TargetOverrideInput {
    let mut was = TargetOverrideInput {
        window: WindowFrom::Sheet,
        low: String::new(),
        high: String::new(),
        school: TargetRule::Sheet,
        from: String::new(),
        to: String::new(),
        unit: Unit::Mm,
        reason: "as before".into(),
    };
    let Some((window, aim)) = before.own_target() else {
        return was;
    };
    let limit = |of: Option<Length>| of.map(|l| in_mm(l.nm() as f64)).unwrap_or_default();
    was.window = WindowFrom::Own;
    (was.low, was.high) = (limit(window.low()), limit(window.high()));
    let at = (aim.to_nm - aim.from_nm).abs() < 0.5;
    was.school = if at {
        TargetRule::At
    } else {
        TargetRule::Between
    };
    (was.from, was.to) = (in_mm(aim.from_nm), in_mm(aim.to_nm));
    if let Some(said) = before.target_overrides.last() {
        was.reason.clone_from(&said.reason);
    }
    was
}
