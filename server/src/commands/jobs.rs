//! Opening a job.

use anvil_rules::identify::IdentityAnswer;
use anvil_rules::job::card::NewCard;
use anvil_rules::job::identity::TypedAnswer;
use anvil_rules::job::intake::Intake;
use anvil_rules::sheet::Sheet;
use chrono::{DateTime, NaiveDate, TimeDelta, Utc};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use crate::db::job::{self, Card};
use crate::db::{Store, build, identity, sheet};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::identity::Sheets;

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
    pub identity: Vec<TypedAnswer>,
    /// It is not overhauled: its parts go into other boxes.
    #[serde(default)]
    pub for_parts: bool,
    /// Who opens the job.
    pub who: String,
}

/// The day that it still is somewhere: what is promised for that day is not promised for the past.
pub(super) fn earliest_day(now: DateTime<Utc>) -> NaiveDate {
    (now - TimeDelta::hours(12)).date_naive()
}

/// Opens a job on the newest revision of a spec sheet and returns its number.
///
/// # Errors
/// Where the card says too little or too much, or there is no such sheet.
pub async fn open(store: &Store, key: &IdempotencyKey, new: &NewJob) -> ApiResult<i32> {
    let said = NewCard {
        title: new.title.clone(),
        customer: new.customer.clone(),
        complaint: new.complaint.clone(),
        intake: None,
    };
    let said = &said.taken()?;
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
            title: &said.title,
            customer: &said.customer,
            complaint: &said.complaint,
            intake: new.intake.taken(sheet, today, None)?,
            for_parts: new.for_parts,
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
            given: sheets.read(store, answer).await?,
        });
    }
    Ok(answers)
}
