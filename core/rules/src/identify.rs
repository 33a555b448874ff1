//! What a box really is: answers that can be checked, against every build of every sheet, and what to ask next.

use std::collections::BTreeSet;

use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{Sign, parse};
use anvil_arithmetic::verdict::{Call, call_of};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

use crate::sheet::{Identify, IdentifyKind, Sheet, Tells, Variant};
use crate::shop::gauge_register::{RegisteredGauge, u_of_registered_micrometer};
use crate::texts::shown;

/// The most characters of a text that is cast or stamped.
const LONGEST_TEXT: usize = 60;
/// More than this nobody counts.
const MOST_COUNTED: u32 = 999;

/// What was seen, counted or measured.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Given {
    Count {
        count: u32,
    },
    Text {
        text: String,
    },
    Length {
        size_nm: Length,
        /// Its standard uncertainty in nanometres.
        u_nm: f64,
    },
    YesNo {
        yes: bool,
    },
    /// It cannot be seen or told on this box, or not yet.
    NotSeen,
}

/// An answer to a question.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct IdentityAnswer {
    /// The key of the question.
    pub question: String,
    pub given: Given,
}

/// An answer as it is on record, or that one was taken back.
#[derive(Clone, Debug, PartialEq)]
pub struct IdentityEntry {
    /// The key of the question.
    pub question: String,
    /// None where an answer is taken back.
    pub given: Option<Given>,
    pub who: String,
    pub at: DateTime<Utc>,
}

/// The answers that stand: the last to each question, in the order in which they were first given.
#[must_use]
pub fn standing(entries: &[IdentityEntry]) -> Vec<IdentityAnswer> {
    let mut questions: Vec<&str> = Vec::new();
    for entry in entries {
        if !questions.contains(&entry.question.as_str()) {
            questions.push(&entry.question);
        }
    }
    let last = |question: &&str| {
        let entry = entries.iter().rfind(|e| e.question == *question)?;
        Some(IdentityAnswer {
            question: entry.question.clone(),
            given: entry.given.clone()?,
        })
    };
    questions.iter().filter_map(last).collect()
}

/// A build that a box may be.
#[derive(Clone, Copy, Debug)]
pub struct Candidate<'a> {
    pub sheet: &'a Sheet,
    /// The newest revision of it.
    pub revision: i32,
    /// Which of its builds; none where it has only one.
    pub variant: Option<&'a Variant>,
}

/// Every build of every sheet that says how its box is told, in the order of the sheets: of the others no answer says
/// anything.
pub fn candidates<'a>(sheets: impl IntoIterator<Item = (i32, &'a Sheet)>) -> Vec<Candidate<'a>> {
    let of = |(revision, sheet): (i32, &'a Sheet)| {
        let builds: Vec<_> = if sheet.variants.is_empty() {
            vec![None]
        } else {
            sheet.variants.iter().map(Some).collect()
        };
        builds.into_iter().map(move |variant| Candidate {
            sheet,
            revision,
            variant,
        })
    };
    let told = sheets.into_iter().filter(|(_, s)| !s.identify.is_empty());
    told.flat_map(of).collect()
}

/// What an answer says of a build.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Says {
    Agrees,
    Contradicts,
    /// It is too close to call, cannot be seen, or the sheet does not say.
    Nothing,
}

/// A text as it is compared: letters and digits alone, for castings are read in poor light.
fn folded(text: &str) -> String {
    let marks = text.chars().filter(|c| c.is_alphanumeric());
    marks.flat_map(char::to_uppercase).collect()
}

impl<'a> Candidate<'a> {
    /// The question of that key and kind, and the answers that this build may give to it.
    fn tells(&self, key: &str, kind: IdentifyKind) -> Vec<&'a Tells> {
        let variant = self.variant.map(|v| v.key.as_str());
        let mut questions = self.sheet.identify.iter();
        let question = questions.find(|q| q.key == key && q.kind == kind);
        let answers = question.iter().flat_map(|q| &q.answers);
        answers.filter(|t| t.of(variant)).collect()
    }

    fn said_by(&self, answer: &IdentityAnswer) -> (Says, Vec<&'a Tells>) {
        let Some(kind) = answer.given.kind() else {
            return (Says::Nothing, Vec::new());
        };
        let tells = self.tells(&answer.question, kind);
        let one = |tells: &&Tells| match &answer.given {
            Given::Count { count } => call(tells.count == Some(*count)),
            Given::Text { text } => call(tells.text.as_deref().map(folded) == Some(folded(text))),
            Given::YesNo { yes } => call(tells.yes == Some(*yes)),
            Given::Length { size_nm, u_nm } => match tells.window() {
                Err(_) => Says::Nothing,
                Ok(window) => match call_of(size_nm.as_f64(), t95(None) * u_nm, window) {
                    Call::In => Says::Agrees,
                    Call::Inconclusive => Says::Nothing,
                    Call::Tight | Call::Loose | Call::Failed => Says::Contradicts,
                },
            },
            Given::NotSeen => Says::Nothing,
        };
        let each: Vec<Says> = tells.iter().map(one).collect();
        let says = if each.contains(&Says::Agrees) {
            Says::Agrees
        } else if each.is_empty() || each.contains(&Says::Nothing) {
            Says::Nothing
        } else {
            Says::Contradicts
        };
        (says, tells)
    }

    /// It may still be this one if that were seen.
    fn may_be(&self, answer: &IdentityAnswer) -> bool {
        self.said_by(answer).0 != Says::Contradicts
    }
}

const fn call(agrees: bool) -> Says {
    if agrees {
        Says::Agrees
    } else {
        Says::Contradicts
    }
}

impl Given {
    /// The kind of question that it answers; none where nothing could be seen.
    #[must_use]
    pub const fn kind(&self) -> Option<IdentifyKind> {
        match self {
            Self::Count { .. } => Some(IdentifyKind::Count),
            Self::Text { .. } => Some(IdentifyKind::Text),
            Self::Length { .. } => Some(IdentifyKind::Length),
            Self::YesNo { .. } => Some(IdentifyKind::YesNo),
            Self::NotSeen => None,
        }
    }
}

/// An answer as it is typed, by the kind of its question. A length is taken with a micrometer: the one that
/// is taken up, where nobody says which.
///
/// # Errors
/// Where it is no answer of that kind.
pub fn given(
    kind: IdentifyKind,
    typed: &str,
    unit: Unit,
    (register, gauge_key): (&[RegisteredGauge], Option<&str>),
) -> Ruled<Given> {
    let fault = |message: &str| Refusal::field("answer", message.to_owned());
    let typed = shown(typed);
    match kind {
        IdentifyKind::Count => match typed.parse::<u32>() {
            Ok(count) if count <= MOST_COUNTED => Ok(Given::Count { count }),
            _ => Err(fault("Count them, and type a whole number such as 26.")),
        },
        IdentifyKind::Text if typed.is_empty() => Err(fault(
            "Type what is cast or stamped there, or say that it cannot be seen.",
        )),
        IdentifyKind::Text if typed.chars().count() > LONGEST_TEXT => {
            Err(fault("That is too long for a mark: type the mark alone."))
        }
        IdentifyKind::Text => Ok(Given::Text { text: typed.into() }),
        IdentifyKind::Length => {
            let size = parse(typed, Some(unit), Sign::NotNegative)
                .map_err(|why| Refusal::field("answer", why))?;
            if size == Length::ZERO {
                return Err(fault("Nothing was measured: type the size, such as 21.97."));
            }
            Ok(Given::Length {
                size_nm: size,
                u_nm: u_of_registered_micrometer(register, gauge_key)?,
            })
        }
        IdentifyKind::YesNo => match typed {
            "yes" => Ok(Given::YesNo { yes: true }),
            "no" => Ok(Given::YesNo { yes: false }),
            _ => Err(fault("Say yes or no.")),
        },
    }
}

/// What a box is, as far as its answers tell.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Identified {
    /// What it may be first, then what it is not; of those that more answers agree with the first.
    pub candidates: Vec<Judged>,
    /// How many it may still be.
    pub possible: usize,
    /// Every question that one of them asks, in their order.
    pub questions: Vec<IdentityQuestion>,
    /// The question that tells most of what is still possible apart; none where none does.
    pub next: Option<String>,
}

/// A build, and what the answers say of it.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Judged {
    pub sheet_key: String,
    /// What people call the box.
    pub sheet: String,
    pub revision: i32,
    /// The key of the build; empty where the sheet has only one.
    pub variant: String,
    /// What people call it; empty where the sheet has only one.
    pub name: String,
    pub note: String,
    /// No answer contradicts it.
    pub may_be: bool,
    /// The questions whose answers agree with it.
    pub agrees: Vec<String>,
    /// The questions whose answers contradict it.
    pub against: Vec<Against>,
}

/// An answer that contradicts a build.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Against {
    /// The key of the question.
    pub question: String,
    /// What that build would have: `26`, or `21.9 mm to 22.1 mm`.
    pub tells: String,
}

/// A question, with what was answered.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct IdentityQuestion {
    pub key: String,
    pub ask: String,
    pub how: String,
    pub kind: IdentifyKind,
    /// What was answered, where it was.
    pub given: Option<Given>,
    /// The counts and texts that one of the builds would have, to choose from.
    pub choices: Vec<String>,
    /// How many builds would still be possible after the worst answer to it; none where it is answered.
    pub leaves: Option<usize>,
}

/// What a box is, as far as its answers tell.
///
/// The next question is the one that leaves the fewest builds possible whatever is answered to it; of several that leave as
/// few, the first asked. One that may leave all of them is not asked.
#[must_use]
pub fn identified(candidates: &[Candidate<'_>], answers: &[IdentityAnswer]) -> Identified {
    let mut judged: Vec<Judged> = candidates.iter().map(|c| judge(c, answers)).collect();
    let open: Vec<&Candidate<'_>> = candidates
        .iter()
        .zip(&judged)
        .filter(|(_, j)| j.may_be)
        .map(|(c, _)| c)
        .collect();
    let questions = questions(candidates, &open, answers);
    let next = questions
        .iter()
        .filter(|q| q.leaves.is_some_and(|leaves| leaves < open.len()))
        .min_by_key(|q| q.leaves)
        .map(|q| q.key.clone());
    let possible = open.len();
    judged.sort_by_key(|j| (j.against.len(), std::cmp::Reverse(j.agrees.len())));
    Identified {
        candidates: judged,
        possible,
        questions,
        next,
    }
}

fn judge(candidate: &Candidate<'_>, answers: &[IdentityAnswer]) -> Judged {
    let (mut agrees, mut against) = (Vec::new(), Vec::new());
    for answer in answers {
        match candidate.said_by(answer) {
            (Says::Agrees, _) => agrees.push(answer.question.clone()),
            (Says::Contradicts, tells) => {
                let tells: Vec<String> = tells.iter().map(|t| t.words()).collect();
                against.push(Against {
                    question: answer.question.clone(),
                    tells: tells.join(" or "),
                });
            }
            (Says::Nothing, _) => {}
        }
    }
    let Candidate {
        sheet,
        revision,
        variant,
    } = *candidate;
    Judged {
        sheet_key: sheet.key.clone(),
        sheet: sheet.name.clone(),
        revision,
        variant: variant.map_or_else(String::new, |v| v.key.clone()),
        name: variant.map_or_else(String::new, |v| v.name.clone()),
        note: variant.map_or_else(String::new, |v| v.note.clone()),
        may_be: against.is_empty(),
        agrees,
        against,
    }
}

fn questions(
    all: &[Candidate<'_>],
    open: &[&Candidate<'_>],
    answers: &[IdentityAnswer],
) -> Vec<IdentityQuestion> {
    let mut seen: BTreeSet<&str> = BTreeSet::new();
    let mut asked = Vec::new();
    for question in all.iter().flat_map(|c| &c.sheet.identify) {
        if !seen.insert(&question.key) {
            continue;
        }
        let answer = answers.iter().rfind(|a| a.question == question.key);
        let mut choices: Vec<String> = Vec::new();
        for tells in all
            .iter()
            .flat_map(|c| c.tells(&question.key, question.kind))
        {
            let choice = match (tells.count, &tells.text) {
                (Some(count), _) => count.to_string(),
                (_, Some(text)) => text.clone(),
                _ => continue,
            };
            if !choices.contains(&choice) {
                choices.push(choice);
            }
        }
        if question.kind == IdentifyKind::Count {
            choices.sort_by_key(|c| c.parse::<u32>().unwrap_or(u32::MAX));
        }
        asked.push(IdentityQuestion {
            key: question.key.clone(),
            ask: question.ask.clone(),
            how: question.how.clone(),
            kind: question.kind,
            leaves: answer.is_none().then(|| leaves(question, open)),
            given: answer.map(|a| a.given.clone()),
            choices,
        });
    }
    asked
}

/// How many of the builds would still be possible after the worst answer to a question.
fn leaves(question: &Identify, open: &[&Candidate<'_>]) -> usize {
    let tells = || {
        open.iter()
            .flat_map(|c| c.tells(&question.key, question.kind))
    };
    let mut outcomes: Vec<Given> = Vec::new();
    let mut limits: Vec<i64> = Vec::new();
    for tells in tells() {
        outcomes.extend(tells.count.map(|count| Given::Count { count }));
        outcomes.extend(tells.text.clone().map(|text| Given::Text { text }));
        outcomes.extend(tells.yes.map(|yes| Given::YesNo { yes }));
        let both = [&tells.at_least, &tells.at_most];
        limits.extend(both.into_iter().flatten().map(|l| l.length().nm()));
    }
    limits.sort_unstable();
    let between = limits.windows(2).map(|w| w[0].midpoint(w[1]));
    let beyond = [limits.first().map(|l| l - 1), limits.last().map(|l| l + 1)];
    let sizes: Vec<i64> = limits.iter().copied().chain(between).collect();
    // As sizes that are known without doubt: what is too close to call on the bench is settled by a better gauge.
    outcomes.extend(
        sizes
            .into_iter()
            .chain(beyond.into_iter().flatten())
            .map(|nm| Given::Length {
                size_nm: Length::from_nm(nm),
                u_nm: 0.0,
            }),
    );
    let remain = |given: Given| {
        let answer = IdentityAnswer {
            question: question.key.clone(),
            given,
        };
        open.iter().filter(|c| c.may_be(&answer)).count()
    };
    outcomes.into_iter().map(remain).max().unwrap_or(open.len())
}
