//! Jobs: the bench's list, one job's box, its report.

use anvil_rules::job::act::Act;
use anvil_rules::job::card::{JobAct, NewNote};
use anvil_rules::job::check::workflow::JobWait;
use anvil_rules::job::standing::Standing;
use rocket::data::{Data, ToByteUnit};
use rocket::http::{ContentType, Header, Status};
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::acts::{self, ActIn};
use crate::commands::job_files;
use crate::commands::jobs::{self, NewJob};
use crate::db::job::{Asked, JobRow, PhaseCount};
use crate::db::{self, Store};
use crate::http::body::Body;
use crate::http::download::attachment;
use crate::http::extract::{IdempotencyKey, NUMBER, YES_NO, asked};
use crate::http::listed::Listed;
use crate::http::problem::{ApiResult, Problem};
use crate::processor::heavily;
use crate::views::jobs::{BoxView, Report, box_view, report_view};

/// A page of the bench's list.
#[derive(Debug, Serialize, ToSchema)]
pub struct JobList {
    /// The jobs, newest first.
    pub jobs: Vec<JobRow>,
    /// There are older ones: ask for those before the last.
    pub more: bool,
    /// How many open jobs wait for each thing.
    pub waiting: Vec<PhaseCount>,
}

/// What a job may wait for, as it stands in an address.
fn wait_named(phase: Option<&str>) -> ApiResult<Option<JobWait>> {
    let named = phase.map(str::parse).transpose();
    named.map_err(|_| {
        Problem::field(
            "phase",
            "No job waits for that: take a word of the bench's list.",
        )
    })
}

/// Open jobs, or finished ones; newest first, forty at a time.
#[utoipa::path(operation_id = "jobs_list", context_path = "/api", tag = "jobs", params(
    ("finished" = Option<bool>, Query, description = "Finished jobs in place of open ones"),
    ("put_away" = Option<bool>, Query, description = "Jobs put away in place of those on the bench"),
    ("phase" = Option<JobWait>, Query, description = "Only open jobs that wait for this"),
    ("search" = Option<String>, Query, description = "Words that must all be found in number, title, customer or sheet"),
    ("before" = Option<i32>, Query, description = "Only jobs of a lower number, for the next page"),
), responses((status = 200, body = JobList)))]
#[get("/jobs?<finished>&<put_away>&<phase>&<search>&<before>")]
pub async fn list(
    store: &State<Store>,
    finished: Option<&str>,
    put_away: Option<&str>,
    phase: Option<&str>,
    search: Option<&str>,
    before: Option<&str>,
) -> ApiResult<Listed<JobList>> {
    let finished = asked("finished", finished, YES_NO)?.unwrap_or(false);
    let put_away = asked("put_away", put_away, YES_NO)?.unwrap_or(false);
    let asked = Asked {
        standing: match (finished, put_away) {
            (true, _) => Standing::HandedOver,
            (false, true) => Standing::PutAway,
            (false, false) => Standing::OnBench,
        },
        phase: wait_named(phase)?.filter(|_| !finished),
        words: search
            .unwrap_or_default()
            .split_whitespace()
            .map(str::to_owned)
            .take(8)
            .collect(),
        before: asked("before", before, NUMBER)?,
    };
    let listed = db::job::list(store, &asked).await?;
    let list = JobList {
        jobs: listed.jobs,
        more: listed.more,
        waiting: listed.waiting,
    };
    Ok(Listed(list, listed.unread))
}

/// The number of a job.
#[derive(Debug, Serialize, ToSchema)]
pub struct Opened {
    /// The job's number.
    pub job_no: i32,
}

/// Opens a job on the newest revision of a spec sheet.
#[utoipa::path(operation_id = "jobs_open", context_path = "/api", tag = "jobs", request_body = NewJob,
    params(("Idempotency-Key" = String, Header, description = "A new one for each new job")),
    responses((status = 200, body = Opened), (status = 422, body = Problem)))]
#[post("/jobs", data = "<card>")]
pub async fn open(
    store: &State<Store>,
    key: IdempotencyKey,
    card: Body<NewJob>,
) -> ApiResult<Json<Opened>> {
    let job_no = jobs::open(store, &key, &card).await?;
    Ok(Json(Opened { job_no }))
}

/// One job with its checks and its drawing.
#[utoipa::path(operation_id = "jobs_one", context_path = "/api", tag = "jobs", params(("job_no" = i32, Path,)),
    responses((status = 200, body = BoxView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>")]
pub async fn one(store: &State<Store>, job_no: i32) -> ApiResult<Json<BoxView>> {
    box_view(store, job_no).await.map(Json)
}

/// Something to note on a job.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NoteIn {
    pub said: String,
    /// The sum it comes from, as an address of this program.
    #[serde(default)]
    pub address: String,
    /// The initials.
    pub who: String,
}

/// Notes something on a job's log. As `acts` does; this address stays for what was kept to be sent to it.
#[utoipa::path(operation_id = "jobs_note", context_path = "/api", tag = "jobs", request_body = NoteIn,
    params(("job_no" = i32, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = BoxView), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/notes", data = "<note>")]
pub async fn note(
    store: &State<Store>,
    job_no: i32,
    key: IdempotencyKey,
    note: Body<NoteIn>,
) -> ApiResult<Json<BoxView>> {
    let NoteIn { said, address, who } = note.into_inner();
    let did = JobAct::Note(NewNote { said, address });
    let act = ActIn {
        act: Act::Job { did },
        who,
    };
    acts::act(store, &key, None, job_no, &act).await?;
    one(store, job_no).await
}

/// A job's record: readings, working, pieces, clearances achieved, who and when.
#[utoipa::path(operation_id = "jobs_report", context_path = "/api", tag = "jobs", params(("job_no" = i32, Path,)),
    responses((status = 200, body = Report), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/report")]
pub async fn report(store: &State<Store>, job_no: i32) -> ApiResult<Json<Report>> {
    report_view(store, job_no).await.map(Json)
}

/// A ZIP that is streamed.
#[derive(rocket::Responder)]
pub struct Zip {
    file: tokio::fs::File,
    kind: ContentType,
    name: Header<'static>,
}

/// All that is recorded of a job, with its sheet, its gauges, its people and its pictures, as a file to keep or to hand to
/// another shop: a ZIP.
#[utoipa::path(operation_id = "jobs_file_out", context_path = "/api", tag = "jobs", params(("job_no" = i32, Path,)),
    responses((status = 200, content_type = "application/zip", body = Vec<u8>), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/file")]
pub async fn file_out(store: &State<Store>, job_no: i32) -> ApiResult<Zip> {
    Ok(Zip {
        file: job_files::file_out(store, job_no).await?.into(),
        kind: ContentType::ZIP,
        name: attachment(&format!("job-{job_no}.zip")),
    })
}

/// The most bytes of a job's file.
const MOST_MIB: u32 = 200;

/// Takes a job in from its file, up to 200 MiB, under a number of this shop's.
#[utoipa::path(operation_id = "jobs_file_in", context_path = "/api", tag = "jobs",
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    params(("Idempotency-Key" = String, Header,), ("who" = String, Query, description = "The initials")),
    responses((status = 200, body = Opened), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/job-file?<who>", data = "<bytes>")]
pub async fn file_in(
    store: &State<Store>,
    key: IdempotencyKey,
    who: &str,
    bytes: Data<'_>,
) -> ApiResult<Json<Opened>> {
    let mut file = tokio::fs::File::from_std(tempfile::tempfile().map_err(Problem::server)?);
    let sent = bytes.open(MOST_MIB.mebibytes()).stream_to(&mut file).await;
    if !sent.map_err(Problem::server)?.complete {
        return Err(Problem::new(
            Status::PayloadTooLarge,
            "too-large",
            format!(
                "A job’s file may have up to {MOST_MIB} MB: take pictures out of the job, and save it again."
            ),
        ));
    }
    let file = file.into_std().await;
    let file = heavily(|| job_files::read(file))?;
    let job_no = job_files::file_in(store, &key, &file, who).await?;
    Ok(Json(Opened { job_no }))
}
