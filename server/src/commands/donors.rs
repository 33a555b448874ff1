//! The writes on used parts: out of one box into another, and on the shelf.

use anvil_rules::job::donors::{PartPin, off_shelf, own_again, shelved, taken};
use anvil_rules::job::parts::{Finding, PartAct, PartEntry, findings};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use super::builds::on_the_bench;
use super::parts::{give_back, keep_to_get, reopen_due};
use crate::db::{Store, Tx, locks, part};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::donors::Dismantled;
use crate::queries::parts::LoadedParts;

/// The most parts that are named at once.
const MOST_PARTS: usize = 1_000;

/// Parts that go into a job's box.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TakeIn {
    /// Each part once, with where it comes from: another box, this box (what was there stands again), or new.
    pub parts: Vec<PartPin>,
    /// The initials.
    pub who: String,
}

/// Parts that go on the shelf, or are not there any more.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShelveIn {
    /// The keys of the parts; where none is named, all that are sound and here.
    #[serde(default)]
    pub parts: Vec<String>,
    /// Where they lie; empty where they are not on the shelf any more.
    pub place: String,
    /// The initials.
    pub who: String,
}

/// Puts parts of other boxes into a job's, all of them or none. The signed checks that are measured on them are reopened.
///
/// # Errors
/// Where a part is named twice, cannot be taken, or the job is handed over or put away.
pub async fn take(store: &Store, key: &IdempotencyKey, job_no: i32, new: &TakeIn) -> ApiResult<()> {
    let mut names: Vec<&str> = new.parts.iter().map(|p| p.part.as_str()).collect();
    names.sort_unstable();
    if names.is_empty() || names.len() > MOST_PARTS || names.windows(2).any(|w| w[0] == w[1]) {
        return Err(Problem::field(
            "parts",
            format!("Name from 1 to {MOST_PARTS} parts, each once, with where it comes from."),
        ));
    }
    Write::once(
        store,
        key,
        &new.who,
        ("take", &(job_no, &new.parts)),
        |mut tx| async move {
            // Every box that is touched, in one order.
            let before = LoadedParts::held(store, &mut tx, job_no).await?;
            let mut jobs: Vec<i32> = new.parts.iter().filter_map(|p| p.from).collect();
            jobs.extend(new.parts.iter().flat_map(|p| before.givers_of(&p.part)));
            jobs.push(job_no);
            jobs.sort_unstable();
            jobs.dedup();
            locks::hold_jobs(store, &mut tx, &jobs).await?;
            let mut loaded = LoadedParts::held(store, &mut tx, job_no).await?;
            on_the_bench(&loaded.build)?;
            let mut changed = Vec::new();
            for pin in &new.parts {
                changed.extend(put(store, &mut tx, &mut loaded, pin, &new.who).await?);
            }
            reopen_due(store, &mut tx, &loaded, &changed, &new.who).await?;
            keep_to_get(store, &mut tx, &loaded).await?;
            Ok((tx, ()))
        },
    )
    .await
    .inspect(|()| store.due.notify_one())
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

/// Puts parts of a box on the shelf, or says that they are not there any more.
///
/// # Errors
/// Where the job's box is not for parts, or a part cannot be put there.
pub async fn shelve(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    new: &ShelveIn,
) -> ApiResult<()> {
    let request = (job_no, &new.parts, &new.place);
    Write::once(
        store,
        key,
        &new.who,
        ("shelve", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let of = Dismantled::held(store, &mut tx, job_no).await?;
            if !of.job.row.for_parts {
                return Err(Problem::conflict(
                    "not-for-parts",
                    "This box is somebody's: only the parts of a box that is for parts go on the shelf.",
                ));
            }
            let acts = if new.place.trim().is_empty() && !new.parts.is_empty() {
                off_shelf(&of.as_box(), &new.parts)?
            } else {
                shelved(&of.as_box(), &new.parts, &new.place)?
            };
            for act in &acts {
                part::add(store, &mut tx, job_no, act, &new.who).await?;
            }
            Ok((tx, ()))
        },
    )
    .await
}
