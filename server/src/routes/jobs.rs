//! Jobs: the bench's list, one job's box, its report.

use anvil_core::length::Length;
use anvil_core::measure::Way;
use anvil_core::pack::DrawnPack;
use anvil_core::rail::{Rail, rail};
use anvil_core::sheet::{BoxKind, CheckKind, Pack};
use anvil_core::window::Ends;
use chrono::{DateTime, Utc};
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::gap::GapView;
use crate::guard::{Seen, WriteKey};
use crate::problem::{Answer, Problem};
use crate::store::job::{Asked, CheckRow, Job, JobRow, Note, PAGE, PhaseCount};
use crate::store::{self, Store, writes};
use crate::work::On;

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

/// Open jobs, or finished ones; newest first, forty at a time.
#[utoipa::path(operation_id = "jobs_list", context_path = "/api", tag = "jobs", params(
    ("finished" = Option<bool>, Query, description = "Finished jobs in place of open ones"),
    ("phase" = Option<String>, Query, description = "Only open jobs that wait for this"),
    ("search" = Option<String>, Query, description = "Words that must all be found in number, title, customer or sheet"),
    ("before" = Option<i32>, Query, description = "Only jobs of a lower number, for the next page"),
), responses((status = 200, body = JobList)))]
#[get("/jobs?<finished>&<phase>&<search>&<before>")]
pub async fn list(
    store: &State<Store>,
    finished: Option<bool>,
    phase: Option<String>,
    search: Option<&str>,
    before: Option<i32>,
) -> Answer<Json<JobList>> {
    let asked = Asked {
        finished: finished.unwrap_or(false),
        phase: phase.filter(|p| !p.is_empty()),
        words: search
            .unwrap_or_default()
            .split_whitespace()
            .map(str::to_owned)
            .take(8)
            .collect(),
        before,
    };
    let (mut jobs, waiting) = store::job::list(store, &asked).await?;
    let page = usize::try_from(PAGE).unwrap_or(usize::MAX);
    let more = jobs.len() > page;
    jobs.truncate(page);
    Ok(Json(JobList {
        jobs,
        more,
        waiting,
    }))
}

/// The card a box comes in with.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewJob {
    /// The spec sheet's key.
    pub sheet_key: String,
    /// What is on the bench.
    pub title: String,
    /// Whose it is.
    pub customer: String,
    /// What the customer complains of.
    #[serde(default)]
    pub complaint: String,
    /// Who opens the job.
    pub who: String,
}

/// The number of a job.
#[derive(Debug, Serialize, ToSchema)]
pub struct Opened {
    /// The job's number.
    pub job_no: i32,
}

fn text(field: &str, given: &str, most: usize, needed: Option<&str>) -> Answer<String> {
    let given = given.trim();
    if let Some(why) = needed.filter(|_| given.is_empty()) {
        return Err(Problem::field(field, why));
    }
    if given.chars().count() > most {
        return Err(Problem::field(
            field,
            format!("This may have up to {most} characters: shorten it."),
        ));
    }
    Ok(given.to_owned())
}

/// Opens a job on the newest revision of a spec sheet.
#[utoipa::path(operation_id = "jobs_open", context_path = "/api", tag = "jobs", request_body = NewJob,
    params(("Idempotency-Key" = String, Header, description = "A new one for each new job")),
    responses((status = 200, body = Opened), (status = 422, body = Problem)))]
#[post("/jobs", data = "<card>")]
pub async fn open(store: &State<Store>, key: WriteKey, card: Json<NewJob>) -> Answer<Json<Opened>> {
    let title = text(
        "title",
        &card.title,
        80,
        Some("Say what is on the bench, such as “Van 3, five-speed”."),
    )?;
    let customer = text("customer", &card.customer, 80, Some("Say whose box it is."))?;
    let complaint = text("complaint", &card.complaint, 500, None)?;
    if card.sheet_key.is_empty() {
        return Err(Problem::field(
            "sheet_key",
            "Choose the spec sheet of the box.",
        ));
    }
    let (revision, sheet, _) = store::sheet::newest(store, &card.sheet_key)
        .await
        .map_err(|p| {
            if p.status == 404 {
                Problem::field("sheet_key", p.title)
            } else {
                p
            }
        })?;
    let mut tx = store.begin().await?;
    let fingerprint = format!(
        "open {}",
        serde_json::to_string(&*card).map_err(Problem::server)?
    );
    if let Some(done) = writes::claim(store, &mut tx, &key.0, &fingerprint).await? {
        let job_no = done.parse().map_err(Problem::server)?;
        return Ok(Json(Opened { job_no }));
    }
    store::shop::known(store, &mut tx, &card.who).await?;
    let job_no = store::job::open(
        store, &mut tx, &sheet, revision, &title, &customer, &complaint, &card.who,
    )
    .await?;
    writes::note_result(store, &mut tx, &key.0, &job_no.to_string()).await?;
    tx.commit().await?;
    Ok(Json(Opened { job_no }))
}

/// One job, as the Box screen needs it.
#[derive(Debug, Serialize, ToSchema)]
pub struct BoxView {
    /// The job.
    #[serde(flatten)]
    pub job: JobRow,
    /// What the customer complains of.
    pub complaint: String,
    /// Who opened it.
    pub opened_by: String,
    /// Who handed it over.
    pub finished_by: Option<String>,
    /// The sheet it was opened with.
    pub sheet_key: String,
    /// The revision of that sheet.
    pub revision: i32,
    /// The newest there is.
    pub newest_revision: i32,
    /// The kind of box.
    pub kind: BoxKind,
    /// What can hurt somebody or the box.
    pub cautions: Vec<String>,
    /// For `If-Match`.
    pub version: i32,
    /// The checks, in the sheet's order.
    pub checks: Vec<BoxCheck>,
    /// The drawing.
    pub rail: Rail,
    /// Its clutch packs, as the sheet has them.
    pub packs: Vec<DrawnPack>,
    /// What was noted, the newest first.
    pub notes: Vec<Note>,
}

/// One check of a box.
#[derive(Debug, Serialize, ToSchema)]
pub struct BoxCheck {
    /// Where it stands.
    #[serde(flatten)]
    pub row: CheckRow,
    /// What people call it.
    pub name: String,
    /// What kind of check it is.
    pub kind: CheckKind,
    /// How it is usually taken.
    pub method: Way,
    /// The window the shop works to; none for a torque.
    pub window: Option<Ends>,
    /// The checks that must be signed off first and are not.
    pub waits_for: Vec<String>,
}

/// One job with its checks and its drawing.
#[utoipa::path(operation_id = "jobs_one", context_path = "/api", tag = "jobs", params(("job_no" = i32, Path,)),
    responses((status = 200, body = BoxView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>")]
pub async fn one(store: &State<Store>, job_no: i32) -> Answer<Json<BoxView>> {
    let job = store::job::job(store, &store.pool, job_no).await?;
    let rows = store::job::checks(store, &store.pool, job_no).await?;
    let own = store::check::own_windows(store, job_no).await?;
    let sheet = store::sheet::revision(store, &store.pool, &job.sheet_key, job.revision).await?;
    let open: Vec<String> = rows
        .iter()
        .filter(|r| r.phase != "signed" && r.phase != "elsewhere")
        .map(|r| r.check_key.clone())
        .collect();
    let checks = rows
        .into_iter()
        .filter_map(|row| {
            let check = sheet.check(&row.check_key)?;
            let name_of = |key: &String| {
                sheet
                    .check(key)
                    .map_or_else(|| key.clone(), |c| c.name.clone())
            };
            Some(BoxCheck {
                name: check.name.clone(),
                kind: check.kind,
                method: check.method,
                window: own
                    .iter()
                    .find(|o| o.0 == check.key)
                    .map(|o| Ends {
                        low_nm: o.1.map(Length::from_nm),
                        high_nm: o.2.map(Length::from_nm),
                    })
                    .or(check.working_window().map(Ends::from)),
                waits_for: check
                    .after
                    .iter()
                    .filter(|a| open.contains(a))
                    .map(name_of)
                    .collect(),
                row,
            })
        })
        .collect();
    let Job {
        row,
        complaint,
        opened_by,
        finished_by,
        sheet_key,
        revision,
        version,
    } = job;
    Ok(Json(BoxView {
        job: row,
        complaint,
        opened_by,
        finished_by,
        newest_revision: store::job::newest_revision(store, &sheet_key).await?,
        sheet_key,
        revision,
        kind: sheet.kind,
        cautions: sheet.cautions.clone(),
        version,
        checks,
        rail: rail(&sheet),
        packs: sheet.packs.iter().map(Pack::drawn).collect(),
        notes: store::job::notes(store, job_no).await?,
    }))
}

/// The longest note that is kept.
const LONGEST_NOTE: usize = 2_000;

/// Something to note on a job.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NoteIn {
    /// What.
    pub said: String,
    /// The sum it comes from, as an address of this program.
    #[serde(default)]
    pub address: String,
    /// The initials.
    pub who: String,
}

/// Notes something on a job's log.
#[utoipa::path(operation_id = "jobs_note", context_path = "/api", tag = "jobs", request_body = NoteIn,
    params(("job_no" = i32, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = BoxView), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/notes", data = "<note>")]
pub async fn note(
    store: &State<Store>,
    job_no: i32,
    key: WriteKey,
    note: Json<NoteIn>,
) -> Answer<Json<BoxView>> {
    let said = note.said.trim();
    if said.is_empty() || said.chars().count() > LONGEST_NOTE {
        return Err(Problem::field(
            "said",
            format!("A note has from 1 to {LONGEST_NOTE} characters."),
        ));
    }
    if !note.address.is_empty()
        && (!note.address.starts_with("/sums/") || note.address.len() > 2_000)
    {
        return Err(Problem::field(
            "address",
            "A note leads to a sum of this program, or nowhere.",
        ));
    }
    let mut tx = store.begin().await?;
    let fingerprint = format!("note {job_no} {} {} {said}", note.who, note.address);
    if writes::claim(store, &mut tx, &key.0, &fingerprint)
        .await?
        .is_none()
    {
        store::shop::known(store, &mut tx, &note.who).await?;
        store::job::job(store, &mut *tx, job_no).await?;
        store::job::note(store, &mut tx, job_no, (said, &note.address), &note.who).await?;
        tx.commit().await?;
    }
    one(store, job_no).await
}

/// Who hands a job over.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HandOver {
    /// The initials.
    pub who: String,
}

/// Hands a job over, once every check is signed off.
#[utoipa::path(operation_id = "jobs_hand_over", context_path = "/api", tag = "jobs", request_body = HandOver,
    params(("job_no" = i32, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = BoxView), (status = 409, body = Problem)))]
#[post("/jobs/<job_no>/hand-over", data = "<by>")]
pub async fn hand_over(
    store: &State<Store>,
    job_no: i32,
    key: WriteKey,
    seen: Seen,
    by: Json<HandOver>,
) -> Answer<Json<BoxView>> {
    let mut tx = store.begin().await?;
    let fingerprint = format!("hand over {job_no} {}", by.who);
    if writes::claim(store, &mut tx, &key.0, &fingerprint)
        .await?
        .is_none()
    {
        store::shop::known(store, &mut tx, &by.who).await?;
        let job = store::job::job(store, &mut *tx, job_no).await?;
        seen.still(job.version, "This job")?;
        if job.row.signed_count < job.row.check_count {
            let open = job.row.check_count - job.row.signed_count;
            return Err(Problem::conflict(
                "checks-open",
                format!("{open} checks are not signed off yet."),
            ));
        }
        if !store::job::mark(store, &mut tx, job_no, true, &by.who).await? {
            return Err(Problem::conflict(
                "handed-over",
                "This job is handed over already.",
            ));
        }
        tx.commit().await?;
    }
    one(store, job_no).await
}

/// A job's record, to print.
#[derive(Debug, Serialize, ToSchema)]
pub struct Report {
    /// The shop's name.
    pub shop: String,
    /// Where it is.
    pub place: String,
    /// The job.
    #[serde(flatten)]
    pub job: JobRow,
    /// What the customer complained of.
    pub complaint: String,
    /// Who opened it.
    pub opened_by: String,
    /// Who handed it over.
    pub finished_by: Option<String>,
    /// The sheet it was opened with.
    pub sheet_key: String,
    /// The revision of that sheet.
    pub revision: i32,
    /// Where the sheet's figures come from.
    pub source: String,
    /// Its checks with all their records, in the sheet's order.
    pub checks: Vec<GapView>,
    /// The checks that this program does not measure.
    pub elsewhere: Vec<String>,
    /// When this was put together.
    pub printed_at: DateTime<Utc>,
    /// The people whose initials may stand on it.
    pub people: Vec<store::shop::Person>,
}

/// A job's record: readings, working, pieces, clearances achieved, who and when.
#[utoipa::path(operation_id = "jobs_report", context_path = "/api", tag = "jobs", params(("job_no" = i32, Path,)),
    responses((status = 200, body = Report), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/report")]
pub async fn report(store: &State<Store>, job_no: i32) -> Answer<Json<Report>> {
    let shop = store::shop::shop(store).await?;
    let job = store::job::job(store, &store.pool, job_no).await?;
    let sheet = store::sheet::revision(store, &store.pool, &job.sheet_key, job.revision).await?;
    let there = store::job::checks(store, &store.pool, job_no).await?;
    let mut checks = Vec::new();
    let mut elsewhere = Vec::new();
    for check in &sheet.checks {
        // Jobs opened before torques were measured here keep them on their card.
        if there
            .iter()
            .any(|r| r.check_key == check.key && r.phase == "elsewhere")
        {
            elsewhere.push(check.name.clone());
            continue;
        }
        let on = On {
            store,
            job_no,
            key: &check.key,
            who: "",
        };
        checks.push(on.view().await?);
    }
    Ok(Json(Report {
        shop: shop.name,
        place: shop.place,
        complaint: job.complaint,
        opened_by: job.opened_by,
        finished_by: job.finished_by,
        sheet_key: job.sheet_key,
        revision: job.revision,
        job: job.row,
        source: sheet.source.clone(),
        checks,
        elsewhere,
        printed_at: Utc::now(),
        people: shop.people,
    }))
}
