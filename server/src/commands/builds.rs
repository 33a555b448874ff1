//! The writes on a job's build.

use anvil_rules::job::build::{BuildAct, BuildEntry, Target};
use anvil_rules::job::check::record::Signing;
use serde::{Deserialize, Serialize};
use tokio::sync::Mutex;
use utoipa::ToSchema;

use super::Write;
use super::locked_check::settle_again;
use super::settle_build::settle;
use crate::db::check::{self, Bump};
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

/// Puts what somebody did on record, where it can be so, and answers the build as it is then. Taking the box apart reopens
/// the signed checks that fall with it.
///
/// # Errors
/// See [`anvil_rules::job::build::Build::taken`]; where the job is handed over or put away.
pub async fn act(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    new: &BuildActIn,
) -> ApiResult<LoadedBuild> {
    let request = (job_no, &new.act);
    // What the write leaves behind need not be loaded again; where it was done before, it is.
    let left = Mutex::new(None);
    let left_by = &left;
    Write::once(
        store,
        key,
        &new.who,
        ("build", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let mut loaded = LoadedBuild::held(store, &mut tx, job_no).await?;
            on_the_bench(&loaded)?;
            let standing = loaded.build()?;
            let act = standing.taken(&new.act)?;
            let falls = match &act {
                BuildAct::TornBack { to, .. } => {
                    let times = std::collections::BTreeMap::new();
                    standing.tear_back(Target::Step(to), &times)?.falls
                }
                _ => Vec::new(),
            };
            drop(standing);
            let at = build::add(store, &mut tx, job_no, &act, &new.who).await?;
            if let BuildAct::TornBack { why, .. } = &act {
                let reason = format!("Taken apart again: {why}");
                let keys: Vec<String> = falls.into_iter().map(|f| f.check).collect();
                reopen(store, &mut tx, job_no, &keys, (&reason, &new.who)).await?;
            }
            if matches!(act, BuildAct::TornBack { .. }) {
                loaded.checks = facts(&job::checks(store, &mut *tx, job_no).await?);
            }
            loaded.entries.push(BuildEntry {
                act,
                who: new.who.clone(),
                at,
            });
            loaded.now = at;
            settle(store, &mut tx, job_no, &loaded.build()?).await?;
            *left_by.lock().await = Some(loaded);
            Ok((tx, ()))
        },
    )
    .await?;
    store.due.notify_one();
    match left.into_inner() {
        Some(loaded) => Ok(loaded),
        None => LoadedBuild::of(store, job_no).await,
    }
}

/// Nothing is done to a box that is not on the bench.
///
/// # Errors
/// Where its job is handed over or put away.
pub(super) fn on_the_bench(of: &LoadedBuild) -> ApiResult<()> {
    let row = &of.job.row;
    if row.finished_at.is_some() || row.put_away_at.is_some() {
        return Err(Problem::conflict(
            "not-on-the-bench",
            "This job is handed over or put away: take it back first.",
        ));
    }
    Ok(())
}

/// Reopens signed checks of a job that is held.
///
/// # Errors
/// Where the database does not answer.
pub(super) async fn reopen(
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
