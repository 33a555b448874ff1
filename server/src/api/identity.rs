//! What a box really is.

use anvil_rules::identify::{Identified, IdentityAnswer};
use anvil_rules::job::identity::TypedAnswer;
use anvil_rules::sheet::BoxKind;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::db::Store;
use crate::http::body::Body;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::identity::{JobIdentity, Sheets};

/// What was seen of a box that has no job yet.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SeenOfBox {
    /// The kind of box; all where none is named.
    #[serde(default)]
    pub kind: Option<BoxKind>,
    /// What was answered, the oldest first.
    #[serde(default)]
    pub answers: Vec<TypedAnswer>,
}

/// What a box may be, from what was seen of it; nothing is kept.
#[utoipa::path(operation_id = "identity_ask", context_path = "/api", tag = "identity", request_body = SeenOfBox,
    responses((status = 200, body = Identified), (status = 422, body = Problem)))]
#[post("/identity", data = "<seen>")]
pub async fn ask(store: &State<Store>, seen: Body<SeenOfBox>) -> ApiResult<Json<Identified>> {
    let sheets = Sheets::of(store, &mut store.moment().await?, seen.kind, "").await?;
    let mut answers = Vec::with_capacity(seen.answers.len());
    for answer in &seen.answers {
        answers.push(IdentityAnswer {
            question: answer.question.clone(),
            given: sheets.read(store, answer).await?,
        });
    }
    Ok(Json(sheets.told(&answers)))
}

/// What a job's box is taken for, and what its answers say of that.
#[utoipa::path(operation_id = "identity_one", context_path = "/api", tag = "identity", params(("job_no" = i32, Path,)),
    responses((status = 200, body = JobIdentity), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/identity")]
pub async fn one(store: &State<Store>, job_no: i32) -> ApiResult<Json<JobIdentity>> {
    Ok(Json(JobIdentity::of(store, job_no).await?))
}
