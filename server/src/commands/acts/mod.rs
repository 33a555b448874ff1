//! Acts: whatever somebody does on a job. Looked at under the lock, asked of the core, stored with what follows, and
//! answered with the view that it was done on and with what undoes it.

mod build;
mod check;
mod donor;
mod identity;
mod job;
mod part;
mod pieces;

pub(super) use part::settle_to_get;

use anvil_rules::job::act::{Act, Undoing};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::db::Store;
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::ApiResult;
use crate::queries::CheckRef;
use crate::queries::identity::JobIdentity;
use crate::queries::parts::LoadedParts;
use crate::views::acted::{Acted, ActedOn};
use crate::views::jobs::box_view;

/// What somebody does on a job.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ActIn {
    pub act: Act,
    /// The initials.
    pub who: String,
}

/// Who does something on which job, and under which key.
#[derive(Clone, Copy)]
pub(super) struct By<'a> {
    pub store: &'a Store,
    pub key: &'a IdempotencyKey,
    pub job_no: i32,
    pub who: &'a str,
    /// The version that was seen of what it is done to, where it rests on that.
    pub seen: Option<IfMatch>,
}

impl By<'_> {
    /// The thing is as it was seen.
    ///
    /// # Errors
    /// Where it has changed since, or nobody says what was seen.
    fn still(&self, version: i32, what: &str) -> ApiResult<()> {
        let seen = self.seen.ok_or_else(IfMatch::wanted)?;
        seen.still(version, what)
    }
}

/// Does something on a job, once.
///
/// # Errors
/// Where it may not be done as things stand: see the rules of each kind of act. Then nothing is changed.
pub async fn act(
    store: &Store,
    key: &IdempotencyKey,
    seen: Option<IfMatch>,
    job_no: i32,
    new: &ActIn,
) -> ApiResult<Acted> {
    let by = By {
        store,
        key,
        job_no,
        who: &new.who,
        seen,
    };
    let (on, undoing): (ActedOn, Option<Undoing>) = match &new.act {
        Act::Check { check, did } => {
            let of = CheckRef {
                store,
                job_no,
                key: check,
                who: &new.who,
            };
            let (view, undoing) = check::act(&of, &by, did).await?;
            (ActedOn::check(view), undoing)
        }
        Act::Job { did } => {
            let undoing = job::act(&by, did).await?;
            (ActedOn::job(box_view(store, job_no).await?), undoing)
        }
        Act::Build { did } => {
            let (loaded, undoing) = build::act(&by, did).await?;
            let times = loaded.own_times(store).await?;
            (ActedOn::build(loaded.build()?.view(&times)), undoing)
        }
        Act::Part { did } => {
            let undoing = part::act(&by, did).await?;
            (
                ActedOn::parts(LoadedParts::of(store, job_no).await?.view()?),
                undoing,
            )
        }
        Act::Donor { did } => {
            let undoing = donor::act(&by, did).await?;
            (
                ActedOn::parts(LoadedParts::of(store, job_no).await?.view()?),
                undoing,
            )
        }
        Act::Identity { did } => {
            let undoing = identity::act(&by, did).await?;
            (
                ActedOn::identity(JobIdentity::of(store, job_no).await?),
                undoing,
            )
        }
    };
    Ok(Acted {
        on,
        undoing,
        stale: new.act.stale().to_vec(),
    })
}
