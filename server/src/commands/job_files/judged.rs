//! Whether what a job's file holds could have been written here.

use std::sync::Arc;

use anvil_arithmetic::refusal::Nature;
use anvil_rules::job::parts::{Finding, PartAct, PartState, taken};
use anvil_rules::texts::{too_long, unstorable};
use chrono::{DateTime, TimeDelta, Utc};
use serde_json::Value;

use super::{Row, fault_at};
use crate::db::{self, Store, Tx};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;
use crate::queries::identity::Sheets;
use crate::queries::parts::LoadedParts;
use crate::views::check::check_view;

/// Holds a row to what this program writes: its texts are as long as their fields may be, and what happened in it lies
/// between the first of these programs and now.
pub fn within_bounds(place: &str, row: &Row) -> ApiResult<()> {
    let value = Value::Object(row.clone());
    if let Some(field) = unstorable(&value) {
        return Err(fault_at(place, format!("{field} holds a NUL")));
    }
    if let Some((field, most)) = too_long(&value).filter(|(field, _)| !is_bytes(row, field)) {
        return Err(fault_at(
            place,
            format!("{field} may have up to {most} characters"),
        ));
    }
    for (column, value) in row {
        let is_time = column == "at" || column.ends_with("_at");
        if let Some(text) = value.as_str().filter(|_| is_time)
            && !may_be_when(text)
        {
            return Err(fault_at(
                place,
                format!("{column} is “{text}”, and is to be a time between 2000 and now"),
            ));
        }
    }
    Ok(())
}

/// What a picture is made of stands as text.
fn is_bytes(row: &Row, field: &str) -> bool {
    let text = row.get(field).and_then(Value::as_str);
    text.is_some_and(|t| t.starts_with("\\x"))
}

/// A clock of another shop may be a day off.
fn may_be_when(text: &str) -> bool {
    let first = DateTime::from_timestamp(946_684_800, 0);
    let last = Utc::now() + TimeDelta::days(1);
    text.parse::<DateTime<Utc>>()
        .is_ok_and(|at| first.is_some_and(|first| at >= first) && at <= last)
}

/// Reads all that was put in as everything here reads it, and holds what was found of the parts to what may be said of
/// them: what no view could show, or nobody could have said, is refused while it is nobody's.
pub async fn judged(store: &Store, tx: &mut Tx, job_no: i32) -> ApiResult<()> {
    let told = |place: &str| {
        let place = place.to_owned();
        move |p: Problem| match p.unreadable {
            Some(why) => fault_at(&place, why),
            None if p.status == 422 || p.status == 409 || p.status == 404 => {
                fault_at(&place, p.title.trim_end_matches('.'))
            }
            None => p,
        }
    };
    let parts = LoadedParts::held(store, tx, job_no)
        .await
        .map_err(told("parts and build"))?;
    let sheet = Arc::clone(&parts.build.sheet);
    if !sheet.build.is_empty() {
        parts.build.build().map_err(told("build"))?;
        parts.build.parts().map_err(told("build"))?;
    }
    parts.view().map_err(told("parts"))?;
    let register = db::gauge::list(store, &mut **tx).await?;
    for (at, entry) in parts.entries.iter().enumerate() {
        let finding = match &entry.act {
            PartAct::Found(finding) if finding.state != PartState::FromAnother => finding,
            _ => continue,
        };
        // What an older revision had is not asked about any more.
        if sheet.name_of_part(&finding.part).is_some() {
            // The micrometer that it was taken with is another shop's; what that saw is kept with the size.
            let act = PartAct::Found(Finding {
                gauge_key: None,
                ..finding.clone()
            });
            match taken(&sheet, &parts.entries[..at], &act, &register) {
                // That a word is asked for is newer than some records.
                Err(refusal) if refusal.nature == Nature::Field("why") => {}
                judged => {
                    judged.map_err(|r| told(&format!("part_act, row {}", at + 1))(r.into()))?;
                }
            }
        }
    }
    Sheets::of_job(store, tx, &parts.build.job)
        .await
        .map_err(told("identity"))?;
    let answers = db::identity::entries(store, &mut **tx, job_no).await;
    answers.map_err(|e| told("identity")(e.into()))?;
    let checks = db::job::checks(store, &mut **tx, job_no).await;
    for check in checks.map_err(|e| told("checks")(e.into()))? {
        let on = CheckRef {
            store,
            job_no,
            key: &check.check_key,
            who: "",
        };
        let place = format!("check {}", check.check_key);
        let head = db::check::head(store, &mut **tx, job_no, on.key).await;
        let head = head.map_err(|e| told(&place)(e.into()))?;
        let loaded = on.load_held(tx, head).await.map_err(told(&place))?;
        check_view(loaded).map_err(told(&place))?;
    }
    Ok(())
}
