//! Choosing for many checks at once: worked out with progress, and chosen in one go.

use std::sync::Arc;
use std::time::Instant;

use anvil_arithmetic::allocate::{Objective, Progress};
use anvil_rules::job::check::coupling::{AllocationView, Pin};
use rocket::futures::stream::Stream;
use rocket::http::ContentType;
use rocket::response::stream::TextStream;
use rocket::{State, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::streamed::{LEAST_SECONDS, Told, seconds, streamed};
use crate::commands::allocation;
use crate::db::Store;
use crate::http::body::Body;
use crate::http::extract::IdempotencyKey;
use crate::http::listed::Naming;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::open_checks;
use crate::queries::searches::Searches;

/// What to choose for.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShareAsked {
    /// The open checks of this job; of every open job where it is left out.
    #[serde(default)]
    pub job_no: Option<i32>,
    /// What a person has settled on.
    #[serde(default)]
    pub pinned: Vec<Pin>,
    /// How long to search at most, from 0.1 to 120 seconds; 2 where it is left out.
    #[serde(default)]
    pub seconds: Option<f64>,
}

/// How far a search has come.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct ShareProgress {
    /// The best found so far.
    pub tally: Objective,
    /// No sharing-out is better than this.
    pub bound: Objective,
    /// How many branches were looked at.
    pub looked_at: u64,
}

/// What a search waits for.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct ShareWaiting {
    /// How many searches are before it.
    pub before: usize,
}

/// One line of the answer: how far it is, and at last what came of it.
#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ShareTold {
    /// Others search: it waits for its turn.
    Waiting(ShareWaiting),
    /// How far it is.
    Progress(ShareProgress),
    /// What came of it.
    Shared(Box<AllocationView>),
    /// What went wrong.
    Problem(Problem),
}

/// Shares the drawers out among the open checks, exactly. The answer is one JSON object a line as it
/// comes (`application/x-ndjson`): progress, then the result. A client that goes away stops it.
#[utoipa::path(operation_id = "share_out", context_path = "/api", tag = "share", request_body = ShareAsked,
    responses((status = 200, body = ShareTold, content_type = "application/x-ndjson"), (status = 422, body = Problem)))]
#[post("/share", data = "<asked>")]
pub async fn share_out(
    store: &State<Store>,
    searches: &State<Arc<Searches>>,
    asked: Body<ShareAsked>,
) -> ApiResult<Naming<(ContentType, TextStream<impl Stream<Item = String> + use<>>)>> {
    let seconds = seconds(asked.seconds)?;
    let began = Instant::now();
    let (open, unread) = open_checks::gather(store, asked.job_no, &asked.pinned).await?;
    // What the loading took is off the time that was asked for; something is searched in any case.
    let seconds = (seconds - began.elapsed().as_secs_f64()).max(LEAST_SECONDS);
    let told = streamed(searches, seconds, move |listener| {
        let found = open.share(|progress: &Progress| {
            let Progress {
                tally,
                bound,
                looked_at,
            } = *progress;
            listener.go_on(|| {
                ShareTold::Progress(ShareProgress {
                    tally,
                    bound,
                    looked_at,
                })
            })
        });
        match found.and_then(|together| Ok((together, open.one_by_one()?))) {
            Ok((together, alone)) => ShareTold::Shared(Box::new(open.view(&together, &alone))),
            Err(refusal) => ShareTold::Problem(refusal.into()),
        }
    });
    Ok(Naming(told, unread))
}

impl Told for ShareTold {
    fn waiting(before: usize) -> Self {
        Self::Waiting(ShareWaiting { before })
    }

    fn problem(problem: Problem) -> Self {
        Self::Problem(problem)
    }
}

/// A choice for one check of many.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TogetherLine {
    pub job_no: i32,
    pub check_key: String,
    /// The version of the check that was seen.
    pub version: i32,
    pub pieces: Vec<anvil_arithmetic::choose::SizeCount>,
}

/// Choices for many checks.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Together {
    /// Each check once with its pieces; with none, what is chosen for it is let go.
    pub choices: Vec<TogetherLine>,
    /// The job on whose screen it was pressed: the others whose pieces it takes are told.
    #[serde(default)]
    pub from_job: Option<i32>,
    /// The initials.
    pub who: String,
}

/// Chooses for many checks in one go, and sets the pieces aside: all of them, or none.
#[utoipa::path(operation_id = "share_choose", context_path = "/api", tag = "share", request_body = Together,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 204), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/share/choose", data = "<chosen>")]
pub async fn share_choose(
    store: &State<Store>,
    key: IdempotencyKey,
    chosen: Body<Together>,
) -> ApiResult<rocket::response::status::NoContent> {
    let Together {
        choices,
        from_job,
        who,
    } = chosen.into_inner();
    let seen: Vec<_> = choices
        .into_iter()
        .map(|c| {
            let pin = Pin {
                job_no: c.job_no,
                check_key: c.check_key,
                pieces: c.pieces,
            };
            (pin, c.version)
        })
        .collect();
    allocation::choose(store, &key, &seen, (from_job, &who)).await?;
    Ok(rocket::response::status::NoContent)
}

/// An act of choosing for several checks.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ActOfChoosing {
    /// The `Idempotency-Key` it was done under.
    pub act_key: String,
    /// The initials.
    pub who: String,
}

/// Puts back as it was what an act of choosing for several checks has changed.
#[utoipa::path(operation_id = "share_undo", context_path = "/api", tag = "share", request_body = ActOfChoosing,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem), (status = 412, body = Problem)))]
#[post("/share/undo", data = "<act>")]
pub async fn share_undo(
    store: &State<Store>,
    key: IdempotencyKey,
    act: Body<ActOfChoosing>,
) -> ApiResult<rocket::response::status::NoContent> {
    allocation::undo(store, &key, &act.act_key, &act.who).await?;
    Ok(rocket::response::status::NoContent)
}

/// A check that an act of choosing changed.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChoiceSeen {
    /// The `Idempotency-Key` under which it was done.
    pub act_key: String,
    pub job_no: i32,
    pub check_key: String,
    /// The initials.
    pub who: String,
}

/// Says that somebody has seen what an act of choosing changed of a check.
#[utoipa::path(operation_id = "share_seen", context_path = "/api", tag = "share", request_body = ChoiceSeen,
    params(("Idempotency-Key" = String, Header,)), responses((status = 204)))]
#[post("/share/seen", data = "<seen>")]
pub async fn share_seen(
    store: &State<Store>,
    key: IdempotencyKey,
    seen: Body<ChoiceSeen>,
) -> ApiResult<rocket::response::status::NoContent> {
    let of = (seen.act_key.as_str(), seen.job_no, seen.check_key.as_str());
    allocation::see(store, &key, of, &seen.who).await?;
    Ok(rocket::response::status::NoContent)
}
