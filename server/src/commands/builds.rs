//! The writes on a job's build.

use anvil_core::job_build::{Build, BuildAct, Target};
use anvil_core::job_check::record::Signing;
use anvil_core::sheet::Sheet;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use super::locked_check::settle_again;
use crate::db::check::{self, Bump};
use crate::db::job::CheckRow;
use crate::db::{Store, Tx, build, job, locks};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;
use crate::queries::builds::{LoadedBuild, facts};

/// What somebody did with a build.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BuildActIn {
    pub act: BuildAct,
    /// The initials.
    pub who: String,
}

/// Puts what somebody did on record, where it can be so. Taking the box apart reopens the signed checks that fall with it.
///
/// # Errors
/// See [`Build::taken`]; where the job is handed over or put away.
pub async fn act(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    new: &BuildActIn,
) -> ApiResult<()> {
    let request = (job_no, &new.act);
    Write::once(
        store,
        key,
        &new.who,
        ("build", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let loaded = LoadedBuild::held(store, &mut tx, job_no).await?;
            let row = &loaded.job.row;
            if row.finished_at.is_some() || row.put_away_at.is_some() {
                return Err(Problem::conflict(
                    "not-on-the-bench",
                    "This job is handed over or put away: take it back first.",
                ));
            }
            let standing = loaded.build()?;
            let act = standing.taken(&new.act)?;
            let falls = match &act {
                BuildAct::TornBack { to, .. } => {
                    let times = std::collections::BTreeMap::new();
                    standing.tear_back(Target::Step(to), &times)?.falls
                }
                _ => Vec::new(),
            };
            build::add(store, &mut tx, job_no, &act, &new.who).await?;
            if let BuildAct::TornBack { why, .. } = &act {
                let reason = format!("Taken apart again: {why}");
                let keys: Vec<String> = falls.into_iter().map(|f| f.check).collect();
                reopen(store, &mut tx, job_no, &keys, (&reason, &new.who)).await?;
            }
            let rows = job::checks(store, &mut *tx, job_no).await?;
            settle_build(store, &mut tx, job_no, &loaded.sheet, &rows).await?;
            Ok((tx, ()))
        },
    )
    .await
    .inspect(|()| store.due.notify_one())
}

/// Reopens signed checks of a job that is held.
async fn reopen(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    keys: &[String],
    (reason, who): (&str, &str),
) -> ApiResult<()> {
    let at = build::now(&mut **tx).await?;
    for key in keys {
        let of = CheckRef {
            store,
            job_no,
            key,
            who,
        };
        let head = check::head(store, &mut **tx, job_no, key).await?;
        let record = of.load_held(tx, head).await?.record;
        let signing = Signing::reopened(reason.to_owned(), who, at);
        check::sign(store, tx, &record, &signing, None, None).await?;
    }
    let checks: Vec<(i32, String)> = keys.iter().map(|k| (job_no, k.clone())).collect();
    settle_again(store, tx, &checks, Bump::Always).await
}

/// Stores what comes next in the build of a job that is held, where one was begun.
///
/// # Errors
/// Where the database does not answer.
pub async fn settle_build(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    sheet: &Sheet,
    checks: &[CheckRow],
) -> ApiResult<()> {
    if sheet.build.is_empty() {
        return Ok(());
    }
    let entries = build::entries(store, &mut **tx, job_no).await?;
    if entries.is_empty() {
        return Ok(());
    }
    let facts = facts(checks);
    let now = build::now(&mut **tx).await?;
    let standing = Build::of(sheet, &entries, &facts, now)?;
    let next = standing.next_in_words();
    let figure = |n: usize| i32::try_from(n).unwrap_or(i32::MAX);
    let done_of = (figure(standing.done_count()), figure(sheet.build.len()));
    Ok(build::settle(store, tx, job_no, next.as_deref(), done_of).await?)
}
