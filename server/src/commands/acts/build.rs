//! What is done with a job's build.

use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::build::{BuildAct, BuildEntry};
use anvil_rules::job::check::record::Signing;
use tokio::sync::Mutex;

use super::By;
use crate::commands::Write;
use crate::commands::locked_check::settle_again;
use crate::commands::settle_build::settle;
use crate::db::check::{self, Bump};
use crate::db::{Store, Tx, build, job, locks};
use crate::http::problem::ApiResult;
use crate::queries::CheckRef;
use crate::queries::builds::{LoadedBuild, facts};

/// Puts what somebody did on record, where it can be so, and answers the build as it is then. Taking the box apart reopens
/// the signed checks that fall with it.
///
/// # Errors
/// See [`anvil_rules::job::build::Build::taken`]; where the job is handed over or put away.
pub(super) async fn act(by: &By<'_>, did: &BuildAct) -> ApiResult<(LoadedBuild, Option<Undoing>)> {
    let By {
        store,
        key,
        job_no,
        who,
        ..
    } = *by;
    let request = (job_no, did);
    // What the write leaves behind need not be loaded again; where it was done before, it is.
    let left = Mutex::new(None);
    let left_by = &left;
    let undoing = Write::once(store, key, who, ("build", &request), |mut tx| async move {
        locks::hold_jobs(store, &mut tx, &[job_no]).await?;
        let mut loaded = LoadedBuild::held(store, &mut tx, job_no).await?;
        loaded.job.row.standing.is_on_bench()?;
        let standing = loaded.build()?;
        let act = standing.taken(did)?;
        let undo = act.undoing(&standing);
        let falls = standing.falls_by(&act);
        drop(standing);
        let at = build::add(store, &mut tx, job_no, &act, who).await?;
        if let BuildAct::TornBack { why, .. } = &act {
            let reason = format!("Taken apart again: {why}");
            let keys: Vec<String> = falls.into_iter().map(|f| f.check).collect();
            reopen(store, &mut tx, job_no, &keys, (&reason, who)).await?;
            loaded.checks = facts(&job::checks(store, &mut *tx, job_no).await?);
        }
        loaded.entries.push(BuildEntry {
            act,
            who: who.to_owned(),
            at,
        });
        loaded.now = at;
        settle(store, &mut tx, job_no, &loaded.build()?).await?;
        *left_by.lock().await = Some(loaded);
        let undoing = undo.map(|undo| undo.map(|did| Act::Build { did }).into());
        Ok((tx, undoing))
    })
    .await?;
    store.due.notify_one();
    let loaded = match left.into_inner() {
        Some(loaded) => loaded,
        None => LoadedBuild::of(store, job_no).await?,
    };
    Ok((loaded, undoing))
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
