//! The writes on jobs.

use anvil_rules::identify::IdentityAnswer;
use anvil_rules::job::check::rules;
use anvil_rules::job::hand_over::may_hand_over;
use anvil_rules::job::intake::Intake;
use anvil_rules::sheet::Sheet;
use anvil_rules::texts::shown;
use chrono::{DateTime, NaiveDate, TimeDelta, Utc};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use super::identity::AnswerIn;
use crate::db::job::{self, Card, Job};
use crate::db::{Store, Tx, build, identity, locks, sheet};
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::identity::Sheets;
use crate::queries::parts::LoadedParts;

/// The card a box comes in with.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewJob {
    /// The spec sheet's key.
    pub sheet_key: String,
    /// What is on the bench.
    pub title: String,
    /// Whose it is.
    pub customer: String,
    /// What the customer complains of, in their words.
    #[serde(default)]
    pub complaint: String,
    /// What else is on its card.
    #[serde(default)]
    pub intake: Intake,
    /// The key of the build that the box is; empty where the sheet has only one, or it is not known which.
    #[serde(default)]
    pub variant: String,
    /// What was seen of it, to tell what it is.
    #[serde(default)]
    pub identity: Vec<AnswerIn>,
    /// It is not overhauled: its parts go into other boxes.
    #[serde(default)]
    pub for_parts: bool,
    /// Who opens the job.
    pub who: String,
}

/// A text, trimmed; `needed` says why one is needed, where it is.
fn text<'a>(field: &str, given: &'a str, most: usize, needed: Option<&str>) -> ApiResult<&'a str> {
    let given = shown(given);
    if let Some(why) = needed.filter(|_| given.is_empty()) {
        return Err(Problem::field(field, why));
    }
    if given.chars().count() > most {
        return Err(Problem::field(
            field,
            format!("This may have up to {most} characters: shorten it."),
        ));
    }
    Ok(given)
}

/// A card whose texts say enough, and not too much.
fn card_of<'a>(title: &'a str, customer: &'a str, complaint: &'a str) -> ApiResult<Card<'a>> {
    let said = Some("Say what is on the bench, such as “Van 3, five-speed”.");
    Ok(Card {
        title: text("title", title, 80, said)?,
        customer: text("customer", customer, 80, Some("Say whose box it is."))?,
        complaint: text("complaint", complaint, 500, None)?,
        intake: Intake::default(),
        for_parts: false,
    })
}

/// The day that it still is somewhere: what is promised for that day is not promised for the past.
fn earliest_day(now: DateTime<Utc>) -> NaiveDate {
    (now - TimeDelta::hours(12)).date_naive()
}

/// What a job's card is to say.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobCardIn {
    /// What is on the bench.
    pub title: String,
    /// Whose it is.
    pub customer: String,
    /// What the customer complains of, in their words.
    #[serde(default)]
    pub complaint: String,
    /// What else is on it; left out, that stays.
    #[serde(default)]
    pub intake: Option<Intake>,
    /// Who changes it.
    pub who: String,
}

/// Writes a job's card anew; what it was stays on record.
///
/// # Errors
/// Where the card says too little or too much, or the job has changed since it was seen.
pub async fn put_card(
    store: &Store,
    key: &IdempotencyKey,
    seen: &IfMatch,
    job_no: i32,
    card: &JobCardIn,
) -> ApiResult<()> {
    let new = card_of(&card.title, &card.customer, &card.complaint)?;
    Write::once(
        store,
        key,
        &card.who,
        ("card", &(job_no, card)),
        |mut tx| async move {
            let job = held(store, &mut tx, job_no, seen).await?;
            let intake = if let Some(intake) = &card.intake {
                let sheet = sheet::built(store, &mut *tx, job.on_sheet()).await?;
                let today = earliest_day(build::now(&mut *tx).await?);
                intake.taken(&sheet, today, Some(&job.intake))?
            } else {
                job.intake
            };
            let new = Card { intake, ..new };
            job::put_card(store, &mut tx, job_no, &new, &card.who).await?;
            Ok((tx, ()))
        },
    )
    .await
}

/// Takes a job back that was handed over.
///
/// # Errors
/// Where it has changed since it was seen, or is on the bench.
pub async fn take_back(
    store: &Store,
    key: &IdempotencyKey,
    seen: &IfMatch,
    job_no: i32,
    who: &str,
) -> ApiResult<()> {
    Write::once(
        store,
        key,
        who,
        ("take_back", &job_no),
        |mut tx| async move {
            held(store, &mut tx, job_no, seen).await?;
            if !job::mark(store, &mut tx, job_no, false, ("", who)).await? {
                return Err(Problem::conflict(
                    "not-handed-over",
                    "This job is on the bench: it was not handed over.",
                ));
            }
            Ok((tx, ()))
        },
    )
    .await
}

/// Puts a job away, with why, or brings it back to the bench.
///
/// # Errors
/// See [`rules::may_put_away`]; where no reason is given, it has changed since it was seen, or is not put away.
pub async fn put_away(
    store: &Store,
    key: &IdempotencyKey,
    seen: &IfMatch,
    job_no: i32,
    (away, reason, who): (bool, &str, &str),
) -> ApiResult<()> {
    let why = Some("Say why, such as “opened by mistake”.");
    let reason = text("reason", reason, 500, why.filter(|_| away))?;
    Write::once(
        store,
        key,
        who,
        ("put_away", &(job_no, away, reason)),
        |mut tx| async move {
            let job = held(store, &mut tx, job_no, seen).await?;
            let (handed_over, is_away) =
                (job.row.finished_at.is_some(), job.row.put_away_at.is_some());
            if away {
                let holds = job::holds_pieces(store, &mut tx, job_no).await?;
                rules::may_put_away(handed_over, is_away, holds)?;
            } else if !is_away {
                return Err(Problem::conflict(
                    "not-put-away",
                    "This job is not put away.",
                ));
            }
            job::put_away(store, &mut tx, job_no, away, (reason, who)).await?;
            Ok((tx, ()))
        },
    )
    .await
}

/// Strikes a note out, or restores it.
///
/// # Errors
/// Where there is no such note.
pub async fn mark_note(
    store: &Store,
    key: &IdempotencyKey,
    (job_no, note_no): (i32, i64),
    struck: bool,
    who: &str,
) -> ApiResult<()> {
    let request = (job_no, note_no, struck);
    Write::once(
        store,
        key,
        who,
        ("mark_note", &request),
        |mut tx| async move {
            if !job::mark_note(store, &mut tx, (job_no, note_no), struck, who).await? {
                return Err(Problem::missing("There is no such note on this job."));
            }
            Ok((tx, ()))
        },
    )
    .await
}

/// Holds a job until the transaction ends, as it was seen.
async fn held(store: &Store, tx: &mut Tx, job_no: i32, seen: &IfMatch) -> ApiResult<Job> {
    locks::hold_jobs(store, tx, &[job_no]).await?;
    let job = job::job(store, &mut **tx, job_no).await?;
    seen.still(job.version, "This job")?;
    Ok(job)
}

/// Opens a job on the newest revision of a spec sheet and returns its number.
///
/// # Errors
/// Where the card says too little or too much, or there is no such sheet.
pub async fn open(store: &Store, key: &IdempotencyKey, new: &NewJob) -> ApiResult<i32> {
    let card = card_of(&new.title, &new.customer, &new.complaint)?;
    if new.sheet_key.is_empty() {
        return Err(Problem::field(
            "sheet_key",
            "Choose the spec sheet of the box.",
        ));
    }
    let newest = sheet::newest(store, &new.sheet_key).await;
    let (revision, sheet, _) = newest.map_err(Problem::from).map_err(|p| {
        if p.status == 404 {
            Problem::field("sheet_key", p.title)
        } else {
            p
        }
    })?;
    if !new.variant.is_empty() && sheet.variant(&new.variant).is_none() {
        return Err(Problem::field(
            "variant",
            "The sheet has no such build: choose one of its own, or leave it open.",
        ));
    }
    let sheet = &sheet.as_built(&new.variant);
    let answers = &answers_of(store, new, sheet).await?;
    Write::once(store, key, &new.who, ("open", new), |mut tx| async move {
        let today = earliest_day(build::now(&mut *tx).await?);
        let card = &Card {
            intake: new.intake.taken(sheet, today, None)?,
            for_parts: new.for_parts,
            ..card
        };
        let on = (revision, sheet, new.variant.as_str());
        let job_no = job::open(store, &mut tx, on, card, &new.who).await?;
        for answer in answers {
            let given = (answer.question.as_str(), Some(&answer.given));
            identity::add(store, &mut tx, job_no, given, &new.who).await?;
        }
        Ok((tx, job_no))
    })
    .await
}

/// What was seen of a box before its job was opened.
async fn answers_of(store: &Store, new: &NewJob, sheet: &Sheet) -> ApiResult<Vec<IdentityAnswer>> {
    if new.identity.is_empty() {
        return Ok(Vec::new());
    }
    let sheets = Sheets::of(store, &mut store.moment().await?, None, &sheet.key).await?;
    let mut answers = Vec::with_capacity(new.identity.len());
    for answer in &new.identity {
        answers.push(IdentityAnswer {
            question: answer.question.clone(),
            given: answer.read(store, &sheets).await?,
        });
    }
    Ok(answers)
}

/// The longest note that is kept.
const LONGEST_NOTE: usize = 2_000;

/// Something to note on a job.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NoteIn {
    pub said: String,
    /// The sum it comes from, as an address of this program.
    #[serde(default)]
    pub address: String,
    /// The initials.
    pub who: String,
}

/// Notes something on a job's log.
///
/// # Errors
/// Where the note says nothing or too much, or there is no such job.
pub async fn note(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    note: &NoteIn,
) -> ApiResult<()> {
    let said = shown(&note.said);
    if said.is_empty() || said.chars().count() > LONGEST_NOTE {
        return Err(Problem::field(
            "said",
            format!("A note has from 1 to {LONGEST_NOTE} characters."),
        ));
    }
    let leads = note.address.is_empty() || note.address.starts_with("/sums/");
    if !leads || note.address.len() > 2_000 {
        return Err(Problem::field(
            "address",
            "A note leads to a sum of this program, or nowhere.",
        ));
    }
    Write::once(
        store,
        key,
        &note.who,
        ("note", &(job_no, note)),
        |mut tx| async move {
            job::job(store, &mut *tx, job_no).await?;
            job::note(store, &mut tx, job_no, (said, &note.address), &note.who).await?;
            Ok((tx, ()))
        },
    )
    .await
}

/// Hands a job over, once every check is signed off; with a word of why where something was not seen to.
///
/// # Errors
/// Where the job has changed since it was seen, a check is open, nothing is said of why, or it is handed over already.
pub async fn hand_over(
    store: &Store,
    key: &IdempotencyKey,
    seen: &IfMatch,
    job_no: i32,
    (why, who): (&str, &str),
) -> ApiResult<()> {
    Write::once(
        store,
        key,
        who,
        ("hand_over", &(job_no, why)),
        |mut tx| async move {
            let job = held(store, &mut tx, job_no, seen).await?;
            if job.row.for_parts {
                return Err(Problem::conflict(
                    "for-parts",
                    "This box is for parts: nobody gets it back. Put what is sound on the shelf, and the job away.",
                ));
            }
            let (signed, checks) = (job.row.signed_count, job.row.check_count);
            let loaded = LoadedParts::held(store, &mut tx, job_no).await?;
            let why = may_hand_over(signed, checks, &loaded.not_seen_to()?, why)?;
            if !job::mark(store, &mut tx, job_no, true, (&why, who)).await? {
                return Err(Problem::conflict(
                    "handed-over",
                    "This job is handed over already.",
                ));
            }
            Ok((tx, ()))
        },
    )
    .await
}
