//! Whatever somebody does on a job.

use rocket::serde::json::Json;
use rocket::{State, post};

use crate::commands::acts::{self, ActIn};
use crate::db::Store;
use crate::http::body::Body;
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};
use crate::views::acted::Acted;

/// Does something on a job: with it as a whole, to a check, with its build, to a part, with what its box is, with used
/// parts. The answer is how that stands then, and what undoes it. `If-Match` is wanted where the act is judged on what was
/// seen: to a check, all but readings, ticks and words on a reading; with a job, all but notes.
#[utoipa::path(operation_id = "acts_act", context_path = "/api", tag = "acts", request_body = ActIn,
    params(("job_no" = i32, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = Option<String>, Header,)),
    responses((status = 200, body = Acted), (status = 404, body = Problem), (status = 409, body = Problem),
              (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/acts", data = "<act>")]
pub async fn act(
    store: &State<Store>,
    job_no: i32,
    key: IdempotencyKey,
    seen: Option<IfMatch>,
    act: Body<ActIn>,
) -> ApiResult<Json<Acted>> {
    acts::act(store, &key, seen, job_no, &act).await.map(Json)
}
