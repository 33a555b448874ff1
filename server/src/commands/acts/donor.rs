//! What is done with used parts: out of one box into another, and on the shelf.

use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::donors::{
    DismantledBox, DonorAct, PartPin, TakenUp, off_shelf, shelved, take_up,
};
use anvil_rules::job::parts::{PartAct, PartEntry};
use anvil_rules::job::undo::Undo;

use super::By;
use super::part::{keep_to_get, reopen_due};
use crate::commands::Write;
use crate::db::{Store, Tx, locks, part};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::donors::Dismantled;
use crate::queries::parts::LoadedParts;

/// The most parts that are named at once.
const MOST_PARTS: usize = 1_000;

/// Does something with used parts, once.
///
/// # Errors
/// Where a part is named twice, cannot be taken or put there, or the job is handed over or put away.
pub(super) async fn act(by: &By<'_>, did: &DonorAct) -> ApiResult<Option<Undoing>> {
    let By {
        store,
        key,
        job_no,
        who,
        ..
    } = *by;
    let request = (job_no, did);
    let done = Write::once(store, key, who, ("donor", &request), |mut tx| async move {
        let undo = match did {
            DonorAct::Take { parts } => take(store, &mut tx, job_no, (parts, did), who).await?,
            DonorAct::Shelve { parts, place } => {
                locks::hold_jobs(store, &mut tx, &[job_no]).await?;
                let of = Dismantled::held(store, &mut tx, job_no).await?;
                let undo = did.undoing(&of.as_box());
                shelve(store, &mut tx, &of, (parts, place), who).await?;
                undo
            }
        };
        let undoing = undo.map(|undo| undo.map(|did| Act::Donor { did }).into());
        Ok((tx, undoing))
    });
    done.await.inspect(|_| store.due.notify_one())
}

/// Puts parts of other boxes into a job's, all of them or none. The signed checks that are measured on them are reopened.
async fn take(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    (parts, did): (&[PartPin], &DonorAct),
    who: &str,
) -> ApiResult<Option<Undo<DonorAct>>> {
    let mut names: Vec<&str> = parts.iter().map(|p| p.part.as_str()).collect();
    names.sort_unstable();
    if names.is_empty() || names.len() > MOST_PARTS || names.windows(2).any(|w| w[0] == w[1]) {
        return Err(Problem::field(
            "parts",
            format!("Name from 1 to {MOST_PARTS} parts, each once, with where it comes from."),
        ));
    }
    let before = LoadedParts::held(store, tx, job_no).await?;
    let mut others: Vec<i32> = parts.iter().filter_map(|p| p.from).collect();
    others.extend(parts.iter().flat_map(|p| before.givers_of(&p.part)));
    others.retain(|other| *other != job_no);
    others.sort_unstable();
    others.dedup();
    let jobs: Vec<i32> = others.iter().copied().chain([job_no]).collect();
    locks::hold_jobs(store, tx, &jobs).await?;
    let mut loaded = LoadedParts::held(store, tx, job_no).await?;
    loaded.build.job.row.standing.is_on_bench()?;
    let boxes = Dismantled::several(store, tx, &others).await?;
    let boxes: Vec<DismantledBox<'_>> = boxes.iter().map(Dismantled::as_box).collect();
    let undo = did.undoing(&loaded.as_box());
    let TakenUp {
        acts,
        changed,
        from,
    } = take_up(&loaded.as_box(), &boxes, parts)?;
    part::add_all(store, tx, &acts, who).await?;
    part::put_from(store, tx, job_no, &from).await?;
    let own = acts.into_iter().filter(|(job, _)| *job == job_no);
    let now = loaded.build.now;
    loaded.entries.extend(own.map(|(_, act)| PartEntry {
        act,
        who: who.to_owned(),
        at: now,
    }));
    reopen_due(store, tx, &loaded, &changed, who).await?;
    keep_to_get(store, tx, &loaded).await?;
    Ok(undo)
}

/// Puts parts of a box on the shelf, or says that they are not there any more; the job is held.
async fn shelve(
    store: &Store,
    tx: &mut Tx,
    of: &Dismantled,
    (parts, place): (&[String], &str),
    who: &str,
) -> ApiResult<()> {
    if !of.job.row.for_parts {
        return Err(Problem::conflict(
            "not-for-parts",
            "This box is somebody's: only the parts of a box that is for parts go on the shelf.",
        ));
    }
    let acts = if place.trim().is_empty() && !parts.is_empty() {
        off_shelf(&of.as_box(), parts)?
    } else {
        shelved(&of.as_box(), parts, place)?
    };
    let job_no = of.job.row.job_no;
    let acts: Vec<(i32, PartAct)> = acts.into_iter().map(|act| (job_no, act)).collect();
    Ok(part::add_all(store, tx, &acts, who).await?)
}
