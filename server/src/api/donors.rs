//! Used parts: dismantled boxes beside a job's, the best box of them, and the shelf.

use std::sync::Arc;

use anvil_rules::job::donors::{BestView, DonorProgress, DonorsView, PartPin, ShelfPart};
use rocket::futures::stream::Stream;
use rocket::http::ContentType;
use rocket::response::stream::TextStream;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::allocation::ShareWaiting;
use super::streamed::{Told, seconds, streamed};
use crate::db::Store;
use crate::http::body::Body;
use crate::http::listed::Listed;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::donors::{Boxes, problem, shelf};
use crate::queries::searches::Searches;

/// A job's box beside those that parts can come out of.
#[utoipa::path(operation_id = "donors_one", context_path = "/api", tag = "donors", params(("job_no" = i32, Path,)),
    responses((status = 200, body = DonorsView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/donors")]
pub async fn one(store: &State<Store>, job_no: i32) -> ApiResult<Listed<DonorsView>> {
    let boxes = Boxes::of(store, job_no).await?;
    Ok(Listed(boxes.view(), boxes.unread))
}

/// What the best box is made of.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BestAsked {
    /// What a person has settled on.
    #[serde(default)]
    pub pinned: Vec<PartPin>,
    /// The jobs whose boxes are left out.
    #[serde(default)]
    pub without: Vec<i32>,
    /// How long to search at most, from 0.1 to 120 seconds; 2 where it is left out.
    #[serde(default)]
    pub seconds: Option<f64>,
}

/// One line of the answer: how far it is, and at last what came of it.
#[derive(Debug, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DonorsTold {
    /// Others search: it waits for its turn.
    Waiting(ShareWaiting),
    /// How far it is.
    Progress(DonorProgress),
    /// What came of it.
    Best(Box<BestView>),
    /// What went wrong.
    Problem(Problem),
}

impl Told for DonorsTold {
    fn waiting(before: usize) -> Self {
        Self::Waiting(ShareWaiting { before })
    }

    fn problem(problem: Problem) -> Self {
        Self::Problem(problem)
    }
}

/// The best box from the dismantled ones, exactly. The answer is one JSON object a line as it comes
/// (`application/x-ndjson`): progress, then the result. A client that goes away stops it.
#[utoipa::path(operation_id = "donors_best", context_path = "/api", tag = "donors", request_body = BestAsked,
    params(("job_no" = i32, Path,)),
    responses((status = 200, body = DonorsTold, content_type = "application/x-ndjson"), (status = 404, body = Problem),
              (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/donors/best", data = "<asked>")]
pub async fn best(
    store: &State<Store>,
    searches: &State<Arc<Searches>>,
    job_no: i32,
    asked: Body<BestAsked>,
) -> ApiResult<(ContentType, TextStream<impl Stream<Item = String> + use<>>)> {
    let seconds = seconds(asked.seconds)?;
    let problem = problem(store, job_no, (&asked.pinned, &asked.without)).await?;
    Ok(streamed(searches, seconds, move |listener| {
        let found = problem.best(|progress| {
            let progress = *progress;
            listener.go_on(|| DonorsTold::Progress(progress))
        });
        match found {
            Ok(best) => DonorsTold::Best(Box::new(best)),
            Err(refusal) => DonorsTold::Problem(refusal.into()),
        }
    }))
}

/// The shelf of used parts, those of the newest boxes first.
#[utoipa::path(operation_id = "donors_shelf", context_path = "/api", tag = "donors", responses((status = 200, body = Vec<ShelfPart>)))]
#[get("/shelf")]
pub async fn on_shelf(store: &State<Store>) -> ApiResult<Listed<Vec<ShelfPart>>> {
    let (parts, unread) = shelf(store).await?;
    Ok(Listed(parts, unread))
}
