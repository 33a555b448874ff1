//! What is said of a job's parts.

use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::donors::{given_again, put_back};
use anvil_rules::job::parts::{Finding, PartAct, PartEntry, something_stands, taken};

use super::By;
use super::build::reopen;
use crate::commands::Write;
use crate::db::{Store, Tx, gauge, locks, part};
use crate::http::problem::ApiResult;
use crate::queries::donors::Dismantled;
use crate::queries::parts::LoadedParts;

/// Works out anew what has to be got for a job that is held, where something was said of its parts.
///
/// # Errors
/// Where the database does not answer.
pub(in crate::commands) async fn settle_to_get(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
) -> ApiResult<()> {
    let loaded = LoadedParts::held(store, tx, job_no).await?;
    keep_to_get(store, tx, &loaded).await
}

/// Puts what somebody found of a part on record, where it can be so. A part that is another, or not as it was, reopens the
/// signed checks that are measured on it.
///
/// # Errors
/// See [`anvil_rules::job::parts::taken`]; where the job is handed over or put away.
pub(super) async fn act(by: &By<'_>, did: &PartAct) -> ApiResult<Option<Undoing>> {
    let By {
        store,
        key,
        job_no,
        who,
        ..
    } = *by;
    let request = (job_no, did);
    Write::once(store, key, who, ("part", &request), |mut tx| async move {
        let part = did.part();
        // With every box that may get its part back or give it again, in one order.
        let before = LoadedParts::held(store, &mut tx, job_no).await?;
        let jobs = before.givers_of(part).chain([job_no]);
        locks::hold_jobs(store, &mut tx, &jobs.collect::<Vec<i32>>()).await?;
        let mut loaded = LoadedParts::held(store, &mut tx, job_no).await?;
        loaded.build.job.row.standing.is_on_bench()?;
        let sheet = std::sync::Arc::clone(&loaded.build.sheet);
        let register = gauge::list(store, &mut *tx).await?;
        let act = taken(&sheet, &loaded.entries, did, &register)?;
        let undo = act.undoing(&sheet, &loaded.entries);
        let was_from = loaded.from_of(part);
        part::add(store, &mut tx, job_no, &act, who).await?;
        loaded.entries.push(PartEntry {
            act,
            who: who.to_owned(),
            at: loaded.build.now,
        });
        let is_from = loaded.from_of(part);
        if was_from != is_from {
            if let Some(from) = was_from {
                give_back(store, &mut tx, (job_no, part), from, who).await?;
            }
            // What stands again is out of a box that has it back since.
            if let (PartAct::TakenBack { .. }, Some(from)) = (did, is_from) {
                let there = Dismantled::held(store, &mut tx, from).await?;
                let given = given_again(&loaded.as_box(), &there.as_box(), part)?;
                part::add(store, &mut tx, from, &given, who).await?;
            }
            let from = [(part.to_owned(), is_from)];
            part::put_from(store, &mut tx, job_no, &from).await?;
        }
        if let PartAct::Found(finding) = did
            && finding.state.changes_it()
        {
            let changed = std::slice::from_ref(finding);
            reopen_due(store, &mut tx, &loaded, changed, who).await?;
        }
        keep_to_get(store, &mut tx, &loaded).await?;
        let undoing = undo.map(|undo| undo.map(|did| Act::Part { did }).into());
        Ok((tx, undoing))
    })
    .await
    .inspect(|_| store.due.notify_one())
}

/// Puts on the record of a box that a part of it is here again.
///
/// # Errors
/// Where the database does not answer.
async fn give_back(
    store: &Store,
    tx: &mut Tx,
    (job_no, part): (i32, &str),
    from: i32,
    who: &str,
) -> ApiResult<()> {
    locks::hold_jobs(store, tx, &[from]).await?;
    let there = Dismantled::held(store, tx, from).await?;
    if let Some(act) = put_back(&there.as_box(), part, job_no) {
        part::add(store, tx, from, &act, who).await?;
    }
    Ok(())
}

/// Reopens the signed checks that are measured on parts that are others now, or not as they were.
///
/// # Errors
/// Where the database does not answer.
pub(super) async fn reopen_due(
    store: &Store,
    tx: &mut Tx,
    loaded: &LoadedParts,
    changed: &[Finding],
    who: &str,
) -> ApiResult<()> {
    let sheet = &*loaded.build.sheet;
    let mut done: Vec<String> = Vec::new();
    for finding in changed {
        let signed = |key: &str| {
            let mut facts = loaded.build.checks.iter();
            facts.any(|f| f.key == key && f.signed_by.is_some())
        };
        let due = sheet.checks_on(&finding.part).into_iter();
        let due: Vec<String> = due
            .filter(|c| signed(&c.key) && !done.contains(&c.key))
            .map(|c| c.key.clone())
            .collect();
        if !due.is_empty() {
            let name = sheet.name_of_part(&finding.part).unwrap_or_default();
            let reason = format!("{name} {}", finding.state.words());
            reopen(store, tx, loaded.build.job.row.job_no, &due, (&reason, who)).await?;
            done.extend(due);
        }
    }
    Ok(())
}

/// Keeps what has to be got for a job that is held; nothing is got for a box that gives its parts.
///
/// # Errors
/// Where the record contradicts the sheet, or the database does not answer.
pub(super) async fn keep_to_get(store: &Store, tx: &mut Tx, loaded: &LoadedParts) -> ApiResult<()> {
    let row = &loaded.build.job.row;
    if row.for_parts {
        return Ok(());
    }
    let to_get = if something_stands(&loaded.entries) {
        loaded.view()?.to_get
    } else {
        Vec::new()
    };
    Ok(part::put_to_get(store, tx, row.job_no, &to_get).await?)
}
