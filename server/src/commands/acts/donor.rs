//! What is done with used parts: out of one box into another, and on the shelf.

use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::donors::{DonorAct, PartPin, off_shelf, own_again, shelved, taken};
use anvil_rules::job::parts::{Finding, PartAct, PartEntry, findings};
use anvil_rules::job::undo::Undo;

use super::By;
use super::part::{give_back, keep_to_get, reopen_due};
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
    let mut jobs: Vec<i32> = parts.iter().filter_map(|p| p.from).collect();
    jobs.extend(parts.iter().flat_map(|p| before.givers_of(&p.part)));
    jobs.push(job_no);
    jobs.sort_unstable();
    jobs.dedup();
    locks::hold_jobs(store, tx, &jobs).await?;
    let mut loaded = LoadedParts::held(store, tx, job_no).await?;
    loaded.build.job.row.standing.is_on_bench()?;
    let undo = did.undoing(&loaded.as_box());
    let mut changed = Vec::new();
    for pin in parts {
        changed.extend(put(store, tx, &mut loaded, pin, who).await?);
    }
    reopen_due(store, tx, &loaded, &changed, who).await?;
    keep_to_get(store, tx, &loaded).await?;
    Ok(undo)
}

/// One part from where it is to come: what was found of it now, where that has changed.
async fn put(
    store: &Store,
    tx: &mut Tx,
    loaded: &mut LoadedParts,
    pin: &PartPin,
    who: &str,
) -> ApiResult<Option<Finding>> {
    let job_no = loaded.build.job.row.job_no;
    let part = pin.part.as_str();
    let stands = findings(&loaded.entries).get(part).copied().cloned();
    let was_from = loaded.from_of(part);
    let is_got = stands.as_ref().is_some_and(|f| f.state.is_got());
    let (here, there) = if pin.from == Some(job_no) {
        if was_from.is_none() && !is_got {
            return Ok(None);
        }
        (own_again(&loaded.entries, part), None)
    } else {
        if pin.from.map_or(is_got, |from| was_from == Some(from)) {
            return Ok(None);
        }
        let from = match pin.from {
            Some(from) => Some(Dismantled::held(store, tx, from).await?),
            None => None,
        };
        let from = from.as_ref().map(Dismantled::as_box);
        let taking = taken(&loaded.as_box(), from.as_ref(), part)?;
        (vec![taking.here], pin.from.zip(taking.there))
    };
    if let Some(was) = was_from {
        give_back(store, tx, (job_no, part), was, who).await?;
    }
    if let Some((from, act)) = there {
        part::add(store, tx, from, &act, who).await?;
    }
    let found = match here.last() {
        Some(PartAct::Found(finding)) => Some(finding.clone()),
        _ => stands,
    };
    for act in here {
        part::add(store, tx, job_no, &act, who).await?;
        loaded.entries.push(PartEntry {
            act,
            who: who.to_owned(),
            at: loaded.build.now,
        });
    }
    part::put_from(store, tx, (job_no, part), loaded.from_of(part)).await?;
    Ok(found)
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
    for act in &acts {
        part::add(store, tx, of.job.row.job_no, act, who).await?;
    }
    Ok(())
}
