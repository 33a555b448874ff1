//! One job: its box, and its record to print.

use std::collections::BTreeMap;

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::proof::YesNo;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Ends;
use anvil_rules::drawing::shafts::{Rail, rail};
use anvil_rules::identify::{Given, IdentityQuestion, candidates, identified, standing};
use anvil_rules::job::allowed::JobAllowed;
use anvil_rules::job::build::{BuildEntry, BuildView};
use anvil_rules::job::check::clashes::{Clash, clashes};
use anvil_rules::job::check::workflow::Phase;
use anvil_rules::job::intake::{Complaint, Intake};
use anvil_rules::job::parts::{LookFirst, OnJob};
use anvil_rules::sheet::pack::DrawnPack;
use anvil_rules::sheet::{BoxKind, CheckKind, Pack, Sheet, Variant};
use chrono::{DateTime, Utc};
use serde::Serialize;
use utoipa::ToSchema;

use super::check::check_view;
use crate::db::choice_act::ChoiceTold;
use crate::db::job::{CardWas, CheckRow, Job, JobMark, JobRow, Note, SameBox};
use crate::db::{self, Store};
use crate::http::problem::ApiResult;
use crate::queries::CheckRef;
use crate::queries::parts::LoadedParts;
use anvil_rules::job::check::view::CheckView;

/// One job, as the Box screen needs it.
#[derive(Debug, Serialize, ToSchema)]
pub struct BoxView {
    #[serde(flatten)]
    pub job: JobRow,
    pub allowed: JobAllowed,
    /// What the customer complains of, in their words.
    pub complaint: String,
    /// What else is on its card.
    pub intake: Intake,
    /// Its complaints as people say them.
    pub complaints: Vec<String>,
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
    /// The build that the box is taken for; none where the sheet has only one.
    pub build_of: Option<Variant>,
    /// Somebody said that it is that build; else it is only the usual one.
    pub build_known: bool,
    /// What was seen of the box and what it is taken for does not have.
    pub contradicted: Vec<SeenOtherwise>,
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
    /// What was done with the job as a whole, the newest first.
    pub marks: Vec<JobMark>,
    /// Its card as it was, the newest change first.
    pub cards_were: Vec<CardWas>,
    /// The other jobs on the box of the same stamped number, the newest first.
    pub same_box: Vec<SameBox>,
    /// What other choices have taken from it, and nobody has seen yet.
    pub told: Vec<ChoiceTold>,
    /// Once every check is signed: what of it nobody has seen to, each in words.
    pub not_seen_to: Vec<String>,
}

/// Something seen of a box that the build it is taken for does not have.
#[derive(Debug, Serialize, ToSchema)]
pub struct SeenOtherwise {
    /// What was asked.
    pub ask: String,
    pub given: Given,
    /// What that build would have.
    pub tells: String,
}

/// Where one check of a job stands, as its list shows it.
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
    pub method: Method,
    /// The window the shop works to; none for a torque.
    pub window: Option<Ends>,
    /// The book gives a chart and no window: the window is what the chart leaves.
    pub by_chart: bool,
    /// What was answered last, where it is a question that somebody has answered.
    pub answer: Option<YesNo>,
    /// The checks that must be signed off first and are not.
    pub waits_for: Vec<String>,
}

/// A job's record, to print.
#[derive(Debug, Serialize, ToSchema)]
pub struct Report {
    /// The shop's name.
    pub shop: String,
    /// Where it is.
    pub place: String,
    #[serde(flatten)]
    pub job: JobRow,
    /// What the customer complained of, in their words.
    pub complaint: String,
    /// What else is on its card.
    pub intake: Intake,
    /// What was found for each complaint.
    pub look_first: Vec<LookFirst>,
    /// Who opened it.
    pub opened_by: String,
    /// Who handed it over.
    pub finished_by: Option<String>,
    /// The sheet it was opened with.
    pub sheet_key: String,
    /// The revision of that sheet.
    pub revision: i32,
    /// What people call the build that the box is taken for; none where the sheet has only one.
    pub build_of: Option<String>,
    /// What was seen of the box, to tell what it is.
    pub seen: Vec<IdentityQuestion>,
    /// Where the sheet's figures come from.
    pub source: String,
    /// Its checks with all their records, in the sheet's order.
    pub checks: Vec<CheckView>,
    /// Where an answer by hand and a figure cannot both be so.
    pub clashes: Vec<Clash>,
    /// The checks that this program does not measure.
    pub elsewhere: Vec<String>,
    /// What was found of its parts, where that is worth telling.
    pub findings: Vec<OnJob>,
    /// Its build, where one was begun.
    pub build: Option<BuildView>,
    /// What was done of that, the oldest first.
    pub build_log: Vec<BuildLine>,
    /// What was noted, the newest first.
    pub notes: Vec<db::job::Note>,
    /// What was done with it as a whole, the newest first.
    pub marks: Vec<db::job::JobMark>,
    /// When this was put together.
    pub printed_at: DateTime<Utc>,
    /// The people whose initials may stand on it.
    pub people: Vec<db::shop::Person>,
}

/// One thing done of a build, in a line.
#[derive(Debug, Serialize, ToSchema)]
pub struct BuildLine {
    pub at: DateTime<Utc>,
    pub who: String,
    pub said: String,
    /// The box was taken apart again with it, or left so.
    pub takes_apart: bool,
}

/// One job with its checks and its drawing.
///
/// # Errors
/// Where there is no such job.
pub async fn box_view(store: &Store, job_no: i32) -> ApiResult<BoxView> {
    let job = db::job::job(store, &store.pool, job_no).await?;
    let rows = db::job::checks(store, &store.pool, job_no).await?;
    let own = db::check::own_windows(store, job_no).await?;
    let sheet = db::sheet::built(store, &store.pool, job.on_sheet()).await?;
    let open: Vec<String> = rows
        .iter()
        .filter(|r| r.phase != Phase::Signed && r.phase != Phase::Elsewhere)
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
            let own = own.iter().find(|o| o.0 == check.key);
            Some(BoxCheck {
                name: check.name.clone(),
                kind: check.kind,
                method: check.method,
                by_chart: check.by_chart() && own.is_none(),
                window: own
                    .map(|o| Ends {
                        low_nm: o.1.map(Length::from_nm),
                        high_nm: o.2.map(Length::from_nm),
                    })
                    .or(check.working_window().map(Ends::from)),
                answer: check.proof.as_ref().and_then(|p| p.answer_of(row.call)),
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
        intake,
        opened_by,
        finished_by,
        sheet_key,
        revision,
        variant,
        version,
    } = job;
    let same_box = db::job::of_same_box(store, job_no, &intake.stamped).await?;
    let signed_of = (row.signed_count, row.check_count);
    let allowed = JobAllowed::of(row.standing, row.for_parts, signed_of);
    let not_seen_to = if allowed.hand_over {
        LoadedParts::of(store, job_no).await?.not_seen_to()?
    } else {
        Vec::new()
    };
    Ok(BoxView {
        allowed,
        not_seen_to,
        job: row,
        complaint,
        complaints: intake.complaints.iter().map(Complaint::words).collect(),
        intake,
        opened_by,
        finished_by,
        newest_revision: db::job::newest_revision(store, &sheet_key).await?,
        build_known: sheet.variant(&variant).is_some(),
        build_of: sheet.usual_variant().cloned(),
        contradicted: seen_otherwise(store, job_no, &sheet).await?,
        sheet_key,
        revision,
        kind: sheet.kind,
        cautions: sheet.cautions.clone(),
        version,
        checks,
        rail: rail(&sheet),
        packs: sheet.packs.iter().map(Pack::drawn).collect(),
        notes: db::job::notes(store, job_no).await?,
        marks: db::job::marks(store, job_no).await?,
        cards_were: db::job::cards_were(store, job_no).await?,
        same_box,
        told: db::choice_act::unseen(store, job_no).await?,
    })
}

/// What was seen of a job's box that what it is taken for does not have.
async fn seen_otherwise(
    store: &Store,
    job_no: i32,
    sheet: &Sheet,
) -> ApiResult<Vec<SeenOtherwise>> {
    let answers = standing(&db::identity::entries(store, &store.pool, job_no).await?);
    let told = identified(&candidates([(0, sheet)]), &answers);
    let against = told.candidates.into_iter().flat_map(|c| c.against);
    let otherwise = against.filter_map(|a| {
        let question = told.questions.iter().find(|q| q.key == a.question)?;
        Some(SeenOtherwise {
            ask: question.ask.clone(),
            given: question.given.clone()?,
            tells: a.tells,
        })
    });
    Ok(otherwise.collect())
}

/// A job's record: readings, working, pieces, clearances achieved, who and when.
///
/// # Errors
/// Where there is no such job.
pub async fn report_view(store: &Store, job_no: i32) -> ApiResult<Report> {
    let shop = db::shop::shop(store).await?;
    let parts = LoadedParts::of(store, job_no).await?;
    let mut of_parts = parts.view()?;
    let look_first = std::mem::take(&mut of_parts.look_first);
    let sheet = &parts.build.sheet;
    let mut loaded = Vec::new();
    let mut elsewhere = Vec::new();
    for check in &sheet.checks {
        // Jobs opened before torques were measured here keep them on their card.
        let mut facts = parts.build.checks.iter();
        if facts.any(|c| c.key == check.key && c.elsewhere) {
            elsewhere.push(check.name.clone());
            continue;
        }
        let on = CheckRef {
            store,
            job_no,
            key: &check.key,
            who: "",
        };
        loaded.push(on.load().await?);
    }
    let (build, build_log) = if parts.build.job.row.steps_done.is_some() {
        let build = parts.build.build()?;
        let line = |entry: &BuildEntry| BuildLine {
            at: entry.at,
            who: entry.who.clone(),
            said: build.line_of(&entry.act),
            takes_apart: entry.act.takes_apart(),
        };
        let log = parts.build.entries.iter().map(line).collect();
        (Some(build.view(&BTreeMap::new())), log)
    } else {
        (None, Vec::new())
    };
    let job = parts.build.job;
    let answers = standing(&db::identity::entries(store, &store.pool, job_no).await?);
    let mut seen = identified(&candidates([(0, &**sheet)]), &answers).questions;
    seen.retain(|q| !matches!(q.given, None | Some(Given::NotSeen)));
    Ok(Report {
        build_of: sheet.usual_variant().map(|v| v.name.clone()),
        seen,
        findings: of_parts.told(),
        look_first,
        build,
        build_log,
        clashes: clashes(&loaded),
        shop: shop.name,
        place: shop.place,
        complaint: job.complaint,
        intake: job.intake,
        opened_by: job.opened_by,
        finished_by: job.finished_by,
        sheet_key: job.sheet_key,
        revision: job.revision,
        job: job.row,
        source: sheet.source.clone(),
        checks: loaded
            .into_iter()
            .map(check_view)
            .collect::<ApiResult<_>>()?,
        elsewhere,
        notes: db::job::notes(store, job_no).await?,
        marks: db::job::marks(store, job_no).await?,
        printed_at: Utc::now(),
        people: shop.people,
    })
}
