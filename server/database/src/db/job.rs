//! Jobs: one overhaul of one box for one customer.

use std::collections::BTreeMap;

use anvil_arithmetic::verdict::Call;
use anvil_rules::job::check::revision::{Beside, fitted_at_first};
use anvil_rules::job::check::workflow::{JobStatus, JobWait, MarkOfJob, Phase};
use anvil_rules::job::intake::{Intake, WaitsFor};
use anvil_rules::job::parts::ToGet;
use anvil_rules::job::standing::Standing;
use anvil_rules::sheet::{Check, Sheet};
use chrono::{DateTime, NaiveDate, Utc};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use sqlx::types::Json;
use utoipa::ToSchema;

use super::error::{DbError, DbResult, Unread, sort_out, word, word_if};
use super::{Store, Tx};

/// A job on the bench's list.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobRow {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    /// Whose it is.
    pub customer: String,
    /// The name of its spec sheet.
    pub sheet: String,
    /// When it was opened.
    pub opened_at: DateTime<Utc>,
    /// When it was handed over, where it was.
    pub finished_at: Option<DateTime<Utc>>,
    /// When it was put away, where it is.
    pub put_away_at: Option<DateTime<Utc>>,
    pub standing: Standing,
    /// It is not overhauled: its parts go into other boxes.
    pub for_parts: bool,
    /// The check it waits for.
    pub next_check: Option<String>,
    /// What people call that check.
    pub next_name: Option<String>,
    /// What that check waits for; `hand_over` where every check is signed.
    pub next_phase: Option<JobWait>,
    /// The size on order, where it waits for one, in nanometres.
    pub next_piece_nm: Option<i64>,
    /// How many checks it has.
    pub check_count: i32,
    /// How many of them are signed.
    pub signed_count: i32,
    /// What comes next in the build, where it was begun and no check comes next.
    pub next_step: Option<String>,
    /// How many steps of the build are done, where it was begun.
    pub steps_done: Option<i32>,
    /// How many it has.
    pub step_count: Option<i32>,
    /// The day for which it is promised.
    pub promised: Option<NaiveDate>,
    /// What it waits for outside the shop, while it does.
    pub waits_for: Option<WaitsFor>,
    /// How many parts are still to be ordered for it, where something was said of its parts.
    pub parts_to_order: Option<i64>,
    /// How many are on order and have not come.
    pub parts_on_order: Option<i64>,
}

/// How many open jobs wait for the same thing.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct PhaseCount {
    /// What they wait for.
    pub phase: JobWait,
    /// How many.
    pub jobs: i64,
}

/// What to list.
#[derive(Clone, Debug)]
pub struct Asked {
    /// Where they are.
    pub standing: Standing,
    /// Only jobs that wait for this.
    pub phase: Option<JobWait>,
    /// Words that must all be found.
    pub words: Vec<String>,
    /// Only jobs of a lower number.
    pub before: Option<i32>,
}

/// How many jobs a page has.
pub const PAGE: i64 = 40;

/// A page of jobs.
#[derive(Debug, Default)]
pub struct JobsListed {
    pub jobs: Vec<JobRow>,
    /// There are older ones.
    pub more: bool,
    /// How many open jobs wait for each thing.
    pub waiting: Vec<PhaseCount>,
    /// What of it cannot be read.
    pub unread: Vec<Unread>,
}

/// What stands in a column as JSON, where something does.
fn read_if<T: DeserializeOwned>(
    value: Option<Json<Value>>,
    row: impl Fn() -> String,
) -> DbResult<Option<T>> {
    let read = value.map(|v| serde_json::from_value(v.0)).transpose();
    read.map_err(|e| DbError::unreadable(row(), e))
}

/// Jobs, newest first but for the one whose number is searched for, one more than a page where there are more; and how
/// many open jobs wait for each thing, which comes along with the rows, for the bench is looked at more than anything else. What cannot be read is left out.
pub async fn list(store: &Store, asked: &Asked) -> DbResult<JobsListed> {
    let like = likes(&asked.words);
    let before = asked.before.unwrap_or(i32::MAX);
    // The job of that very number stands first, on the first page.
    let numbered = match &asked.words[..] {
        [word] => word.parse::<i32>().ok(),
        _ => None,
    };
    let mut rows = sqlx::query!(
        r#"
        select j.job_no as "job_no!", j.title as "title!", j.customer as "customer!", s.name as "sheet!",
               j.opened_at as "opened_at!", j.finished_at, j.put_away_at, j.standing as "standing!", j.for_parts as "for_parts!",
               j.next_check, j.next_name, j.next_phase,
               j.next_piece_nm, j.checks as "check_count!", j.signed as "signed_count!",
               j.next_step, j.steps_done, j.step_count, j.intake->>'promised' as promised,
               j.intake->'waits_for' as "waits_for: Json<Value>", j.to_get as "to_get: Json<Value>",
               (select json_agg(w order by w.phase) from (
                  select next_phase as phase, count(*) as jobs from job
                  where shop_id = $1 and standing = 'on_bench' and next_phase is not null
                  group by next_phase) w) as "waiting: Json<Vec<Value>>"
        from (
          (select * from job
            where shop_id = $1 and job_no = $7 and $8 and standing = $3 and ($5::text is null or next_phase = $5))
          union all
          (select * from job
            where shop_id = $1 and standing = $3 and job_no < $2 and job_no is distinct from $7
              and (cardinality($4::text[]) = 0 or searched like all (array(select folded(word) from unnest($4::text[]) word)))
              and ($5::text is null or next_phase = $5)
            order by job_no desc limit $6)) j
        join sheet s using (shop_id, sheet_key, revision)
        order by (j.job_no = $7) is true desc, j.job_no desc
        "#,
        store.shop_id,
        before,
        <&str>::from(asked.standing),
        &like,
        asked.phase.map(<&str>::from),
        PAGE + 1,
        numbered,
        asked.before.is_none()
    )
    .fetch_all(&store.pool)
    .await?;
    let waiting = match rows.first() {
        Some(row) => row.waiting.as_ref().map_or(&[][..], |w| &w.0).to_vec(),
        None => phases(store).await?,
    };
    let mut listed = JobsListed {
        more: rows.len() > usize::try_from(PAGE).unwrap_or(usize::MAX),
        // What nobody waits for here was written by nobody here.
        waiting: waiting
            .into_iter()
            .filter_map(|w| serde_json::from_value(w).ok())
            .collect(),
        ..JobsListed::default()
    };
    rows.truncate(usize::try_from(PAGE).unwrap_or(usize::MAX));
    for r in rows {
        let job_no = r.job_no;
        let row = || format!("job {job_no}");
        let read = || {
            let promised = r.promised.as_deref().map(str::parse).transpose();
            let to_get: Option<Vec<ToGet>> = read_if(r.to_get, row)?;
            Ok(JobRow {
                next_phase: word_if(r.next_phase.as_deref(), row)?,
                standing: word(&r.standing, row)?,
                promised: promised.map_err(|e| DbError::unreadable(row(), e))?,
                waits_for: read_if(r.waits_for, row)?,
                parts_to_order: parts_of(to_get.as_ref(), |g| g.supply.to_order),
                parts_on_order: parts_of(to_get.as_ref(), |g| g.supply.on_order),
                job_no,
                title: r.title,
                customer: r.customer,
                sheet: r.sheet,
                opened_at: r.opened_at,
                finished_at: r.finished_at,
                put_away_at: r.put_away_at,
                for_parts: r.for_parts,
                next_check: r.next_check,
                next_name: r.next_name,
                next_piece_nm: r.next_piece_nm,
                check_count: r.check_count,
                signed_count: r.signed_count,
                next_step: r.next_step,
                steps_done: r.steps_done,
                step_count: r.step_count,
            })
        };
        let job = sort_out(job_no, read(), &mut listed.unread)?;
        listed.jobs.extend(job);
    }
    Ok(listed)
}

/// Patterns that hold each of the words.
fn likes(words: &[String]) -> Vec<String> {
    let like = |word: &String| {
        let word = word.replace('\\', "\\\\");
        format!("%{}%", word.replace('%', "\\%").replace('_', "\\_"))
    };
    words.iter().map(like).collect()
}

/// How many parts that is, where something was said of parts.
fn parts_of(to_get: Option<&Vec<ToGet>>, of: impl Fn(&ToGet) -> u32) -> Option<i64> {
    let to_get = to_get.filter(|all| !all.is_empty())?;
    Some(to_get.iter().map(|g| i64::from(of(g))).sum())
}

/// How many open jobs wait for each thing.
async fn phases(store: &Store) -> DbResult<Vec<Value>> {
    let rows = sqlx::query_scalar!(
        r#"select jsonb_build_object('phase', next_phase, 'jobs', count(*)) as "waiting!" from job
           where shop_id = $1 and standing = 'on_bench' and next_phase is not null
           group by next_phase order by next_phase"#,
        store.shop_id
    );
    Ok(rows.fetch_all(&store.pool).await?)
}

/// A job by itself.
#[derive(Clone, Debug)]
pub struct Job {
    /// The row of the list.
    pub row: JobRow,
    /// What the customer complains of, in their words.
    pub complaint: String,
    /// What else is on its card.
    pub intake: Intake,
    /// Who opened it.
    pub opened_by: String,
    /// Who handed it over.
    pub finished_by: Option<String>,
    /// The sheet it was opened with.
    pub sheet_key: String,
    /// The revision of that sheet.
    pub revision: i32,
    /// The key of the build that the box is; empty where there is only one, or it is not known which.
    pub variant: String,
    /// For `If-Match`.
    pub version: i32,
}

impl Job {
    /// What its sheet is found by: the key, the revision, the build.
    #[must_use]
    pub fn on_sheet(&self) -> (&str, i32, &str) {
        (&self.sheet_key, self.revision, &self.variant)
    }
}

/// Where one check of a job stands.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CheckRow {
    pub check_key: String,
    pub phase: Phase,
    /// The call on its readings, where there is one.
    pub call: Option<Call>,
    /// The clearance to show in nanometres, where there is one.
    pub shown_nm: Option<f64>,
    /// The torque to show in newton metres, where it is one.
    pub shown_n_m: Option<f64>,
    /// Who signed it, where it is signed.
    pub signed_by: Option<String>,
    /// The size it waits for in nanometres, where it waits for one.
    pub awaited_nm: Option<i64>,
}

/// A job as it is stored.
struct Stored {
    job_no: i32,
    title: String,
    customer: String,
    sheet: String,
    opened_at: DateTime<Utc>,
    finished_at: Option<DateTime<Utc>>,
    put_away_at: Option<DateTime<Utc>>,
    standing: String,
    for_parts: bool,
    next_check: Option<String>,
    next_name: Option<String>,
    next_phase: Option<String>,
    next_piece_nm: Option<i64>,
    checks: i32,
    signed: i32,
    complaint: String,
    opened_by: String,
    finished_by: Option<String>,
    sheet_key: String,
    revision: i32,
    variant: String,
    version: i32,
    next_step: Option<String>,
    steps_done: Option<i32>,
    step_count: Option<i32>,
    intake: Json<Value>,
    to_get: Option<Json<Value>>,
}

impl Stored {
    fn read(self) -> DbResult<Job> {
        let row = || format!("job {}", self.job_no);
        let intake: Intake = serde_json::from_value(self.intake.0)
            .map_err(|e| DbError::unreadable(format!("job {}", self.job_no), e))?;
        let to_get: Option<Vec<ToGet>> = read_if(self.to_get, row)?;
        Ok(Job {
            row: JobRow {
                standing: word(&self.standing, row)?,
                next_phase: word_if(self.next_phase.as_deref(), row)?,
                job_no: self.job_no,
                title: self.title,
                customer: self.customer,
                sheet: self.sheet,
                opened_at: self.opened_at,
                finished_at: self.finished_at,
                put_away_at: self.put_away_at,
                for_parts: self.for_parts,
                next_check: self.next_check,
                next_name: self.next_name,
                next_piece_nm: self.next_piece_nm,
                check_count: self.checks,
                signed_count: self.signed,
                next_step: self.next_step,
                steps_done: self.steps_done,
                step_count: self.step_count,
                promised: intake.promised,
                waits_for: intake.waits_for.clone(),
                parts_to_order: parts_of(to_get.as_ref(), |g| g.supply.to_order),
                parts_on_order: parts_of(to_get.as_ref(), |g| g.supply.on_order),
            },
            intake,
            complaint: self.complaint,
            opened_by: self.opened_by,
            finished_by: self.finished_by,
            sheet_key: self.sheet_key,
            revision: self.revision,
            variant: self.variant,
            version: self.version,
        })
    }
}

/// What is on record of several overhauls, by their numbers; each that cannot be read is an error of its own.
pub async fn jobs<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    numbers: &[i32],
) -> DbResult<BTreeMap<i32, DbResult<Job>>> {
    let rows = sqlx::query_as!(
        Stored,
        r#"select j.job_no, j.title, j.customer, s.name as sheet, j.opened_at, j.finished_at, j.put_away_at,
                j.standing as "standing!", j.for_parts, j.next_check,
                j.next_name, j.next_phase, j.next_piece_nm, j.checks, j.signed, j.complaint, j.opened_by,
                j.finished_by, j.sheet_key, j.revision, j.variant, j.version, j.next_step, j.steps_done, j.step_count,
                j.intake as "intake: Json<Value>", j.to_get as "to_get: Json<Value>"
         from job j join sheet s using (shop_id, sheet_key, revision)
         where j.shop_id = $1 and j.job_no = any($2)"#,
        store.shop_id,
        numbers
    )
    .fetch_all(run)
    .await?;
    Ok(rows.into_iter().map(|r| (r.job_no, r.read())).collect())
}

/// What is on record of an overhaul; missing where there is no such number.
pub async fn job<'e>(store: &Store, run: impl sqlx::PgExecutor<'e>, job_no: i32) -> DbResult<Job> {
    let found = jobs(store, run, &[job_no]).await?.remove(&job_no);
    found.unwrap_or_else(|| Err(DbError::Missing(format!("There is no job {job_no}."))))
}

/// The checks of a job, in the sheet's order.
pub async fn checks<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: i32,
) -> DbResult<Vec<CheckRow>> {
    let rows = sqlx::query!(
        r#"select c.check_key, c.phase, c.call, c.shown_nm, c.shown_n_m,
                  case when c.phase = 'signed' then
                    (select g.who from signing g
                     where g.shop_id = c.shop_id and g.job_no = c.job_no and g.check_key = c.check_key
                     order by g.signing_no desc limit 1) end as signed_by,
                  case when c.phase = 'await_part' then
                    (select min(p.thickness_nm) from setting_piece p
                       join setting t using (shop_id, job_no, check_key, setting_no)
                     where p.shop_id = c.shop_id and p.job_no = c.job_no and p.check_key = c.check_key
                       and t.state = 'chosen' and p.reserved < p.count) end as awaited_nm
           from job_check c where c.shop_id = $1 and c.job_no = $2 order by c.place"#,
        store.shop_id,
        job_no
    )
    .fetch_all(run)
    .await?;
    rows.into_iter()
        .map(|r| {
            let row = || format!("check “{}” of job {job_no}", r.check_key);
            Ok(CheckRow {
                phase: word(&r.phase, row)?,
                call: word_if(r.call.as_deref(), row)?,
                shown_nm: r.shown_nm,
                shown_n_m: r.shown_n_m,
                signed_by: r.signed_by,
                awaited_nm: r.awaited_nm,
                check_key: r.check_key,
            })
        })
        .collect()
}

/// A check of an open job.
#[derive(Clone, Debug)]
pub struct OpenCheck {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    /// The sheet it was opened with.
    pub sheet_key: String,
    /// The revision of that sheet.
    pub revision: i32,
    /// The key of the build that the box is.
    pub variant: String,
    pub check_key: String,
    /// What it waits for.
    pub phase: Phase,
}

/// The checks of one open job, or of all, the oldest job first and in the sheets' order.
pub async fn open_checks<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: Option<i32>,
    unread: &mut Vec<Unread>,
) -> DbResult<Vec<OpenCheck>> {
    let rows = sqlx::query!(
        "select j.job_no, j.title, j.sheet_key, j.revision, j.variant, c.check_key, c.phase
         from job j join job_check c using (shop_id, job_no)
         where j.shop_id = $1 and j.standing = 'on_bench'
           and ($2::integer is null or j.job_no = $2)
         order by j.job_no, c.place",
        store.shop_id,
        job_no
    )
    .fetch_all(run)
    .await?;
    let mut open = Vec::with_capacity(rows.len());
    for r in rows {
        let row = || format!("check “{}” of job {}", r.check_key, r.job_no);
        if let Some(phase) = sort_out(r.job_no, word(&r.phase, row), unread)? {
            open.push(OpenCheck {
                phase,
                job_no: r.job_no,
                title: r.title,
                sheet_key: r.sheet_key,
                revision: r.revision,
                variant: r.variant,
                check_key: r.check_key,
            });
        }
    }
    Ok(open)
}

/// The card a box comes in with.
pub struct Card<'a> {
    /// What is on the bench.
    pub title: &'a str,
    /// Whose it is.
    pub customer: &'a str,
    /// What the customer complains of, in their words.
    pub complaint: &'a str,
    /// What else is on it.
    pub intake: Intake,
    /// The box is not overhauled: its parts go into others. That stays as it was when the job was opened.
    pub for_parts: bool,
}

/// The number of the next job.
pub async fn next_no(store: &Store, tx: &mut Tx) -> DbResult<i32> {
    let job_no = sqlx::query_scalar!(
        "insert into job_count (shop_id, last_job_no) values ($1, 1)
         on conflict (shop_id) do update set last_job_no = job_count.last_job_no + 1
         returning last_job_no",
        store.shop_id
    );
    Ok(job_no.fetch_one(&mut **tx).await?)
}

/// Opens a job on a revision of a sheet, as the build that it is of, and returns its number; `variant` is empty where it is
/// not known which build that is.
pub async fn open(
    store: &Store,
    tx: &mut Tx,
    (revision, sheet, variant): (i32, &Sheet, &str),
    card: &Card<'_>,
    who: &str,
) -> DbResult<i32> {
    let job_no = next_no(store, tx).await?;
    // A box that gives its parts is not measured.
    let checks = if card.for_parts {
        &[]
    } else {
        &sheet.checks[..]
    };
    let first = checks.first();
    sqlx::query!(
        "insert into job (shop_id, job_no, sheet_key, revision, title, customer, complaint, opened_by,
                          checks, next_check, next_name, next_phase, intake, variant, for_parts)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15)",
        store.shop_id,
        job_no,
        sheet.key,
        revision,
        card.title,
        card.customer,
        card.complaint,
        who,
        i32::try_from(checks.len()).unwrap_or(i32::MAX),
        first.map(|c| c.key.clone()),
        first.map(|c| c.name.clone()),
        <&str>::from(if card.for_parts { JobWait::ForParts } else { JobWait::Measure }),
        Json(&card.intake) as _,
        variant,
        card.for_parts
    )
    .execute(&mut **tx)
    .await?;
    put_checks(store, tx, job_no, checks).await?;
    Ok(job_no)
}

/// The checks of a sheet on a job, in the sheet's order; what stands of one that is there already stays.
async fn put_checks(store: &Store, tx: &mut Tx, job_no: i32, checks: &[Check]) -> DbResult<()> {
    let keys: Vec<String> = checks.iter().map(|c| c.key.clone()).collect();
    let fitted: Vec<Option<i64>> = checks.iter().map(fitted_at_first).collect();
    sqlx::query!(
        "insert into job_check (shop_id, job_no, check_key, place, fitted_nm)
         select $1, $2, c.key, c.place::integer, c.fitted
         from unnest($3::text[], $4::bigint[]) with ordinality as c (key, fitted, place)
         on conflict (shop_id, job_no, check_key) do update set place = excluded.place",
        store.shop_id,
        job_no,
        &keys,
        &fitted as &[Option<i64>]
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Puts a job on another revision of its sheet, another build or another sheet. The checks named as gone, of which nothing
/// is recorded, are taken off it.
pub async fn revise(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    to: &Beside,
    gone: &[String],
    who: &str,
) -> DbResult<()> {
    let (from, to, sheet) = (&to.from, &to.to, &*to.now);
    sqlx::query!(
        "delete from job_check where shop_id = $1 and job_no = $2 and check_key = any($3)",
        store.shop_id,
        job_no,
        gone
    )
    .execute(&mut **tx)
    .await?;
    let for_parts = sqlx::query_scalar!(
        "select for_parts from job where shop_id = $1 and job_no = $2",
        store.shop_id,
        job_no
    );
    let checks = if for_parts.fetch_one(&mut **tx).await? {
        &[]
    } else {
        &sheet.checks[..]
    };
    put_checks(store, tx, job_no, checks).await?;
    sqlx::query!(
        "update job set revision = $3, checks = $4, sheet_key = $5, variant = $6, version = version + 1, touched_at = now()
         where shop_id = $1 and job_no = $2",
        store.shop_id,
        job_no,
        to.revision,
        i32::try_from(checks.len()).unwrap_or(i32::MAX),
        to.sheet_key,
        to.variant
    )
    .execute(&mut **tx)
    .await?;
    sqlx::query!(
        "insert into job_moved (shop_id, job_no, from_revision, to_revision, who, from_sheet, to_sheet, from_variant,
                                to_variant)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9)",
        store.shop_id,
        job_no,
        from.revision,
        to.revision,
        who,
        from.sheet_key,
        to.sheet_key,
        from.variant,
        to.variant
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// The newest revision of a job's sheet.
pub async fn newest_revision(store: &Store, sheet_key: &str) -> DbResult<i32> {
    Ok(sqlx::query_scalar!(
        r#"select coalesce(max(revision), 0) as "newest!" from sheet
           where shop_id = $1 and sheet_key = $2"#,
        store.shop_id,
        sheet_key
    )
    .fetch_one(&store.pool)
    .await?)
}

/// Stores what a job waits for, where that has changed.
pub async fn settle(store: &Store, tx: &mut Tx, job_no: i32, status: &JobStatus) -> DbResult<()> {
    sqlx::query!(
        "update job set next_check = $3, next_name = $4, next_phase = $5, next_piece_nm = $6, signed = $7,
                version = version + 1, touched_at = now()
         where shop_id = $1 and job_no = $2
           and (next_check, next_phase, next_piece_nm, signed) is distinct from ($3, $5, $6, $7)",
        store.shop_id,
        job_no,
        status.check.as_ref().map(|c| c.0.as_str()),
        status.check.as_ref().map(|c| c.1.as_str()),
        <&str>::from(status.wait),
        status.piece_nm,
        status.signed
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Hands a job over, or takes it back; why, where something was said. `false` where it was so already.
pub async fn mark(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    handed_over: bool,
    (why, who): (&str, &str),
) -> DbResult<bool> {
    let changed = sqlx::query!(
        "update job set finished_at = case when $3 then now() end,
                finished_by = case when $3 then $4 end, version = version + 1
         where shop_id = $1 and job_no = $2 and (finished_at is null) = $3",
        store.shop_id,
        job_no,
        handed_over,
        who
    )
    .execute(&mut **tx)
    .await?;
    if changed.rows_affected() == 0 {
        return Ok(false);
    }
    sqlx::query!(
        "insert into job_mark (shop_id, job_no, mark, reason, who) values ($1, $2, $3, $4, $5)",
        store.shop_id,
        job_no,
        if handed_over {
            "handed_over"
        } else {
            "taken_back"
        },
        why,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(true)
}

/// Moves a job's records to when a shop's file says they were made: opened so many days ago, and
/// the rest spread over the days the work took. Only for loading: a record made here keeps its time.
pub async fn move_times(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    opened_days_ago: f64,
    took_days: f64,
) -> DbResult<()> {
    sqlx::query!(
        r#"with span as (
             select opened_at as was,
                    now() - make_interval(secs => $3::float8 * 86400) as opened,
                    $4::float8 * 86400 / greatest(extract(epoch from clock_timestamp() - opened_at), 0.001) as stretch
             from job where shop_id = $1 and job_no = $2),
           reading as (update reading t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           mark as (update reading_mark t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           tick as (update tick t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           way as (update way_said t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           bench as (update bench_said t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           said as (update fitted_said t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           setting as (update setting t set chosen_at = span.opened + (t.chosen_at - span.was) * span.stretch,
               ended_at = span.opened + (t.ended_at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           signing as (update signing t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           stock as (update stock_move t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2),
           handed as (update job_mark t set at = span.opened + (t.at - span.was) * span.stretch
             from span where t.shop_id = $1 and t.job_no = $2)
           update job t set opened_at = span.opened,
               finished_at = span.opened + (t.finished_at - span.was) * span.stretch,
               put_away_at = span.opened + (t.put_away_at - span.was) * span.stretch,
               touched_at = span.opened + make_interval(secs => $4::float8 * 86400)
             from span where t.shop_id = $1 and t.job_no = $2"#,
        store.shop_id,
        job_no,
        opened_days_ago,
        took_days
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Puts a job away, or brings it back to the bench.
pub async fn put_away(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    away: bool,
    (reason, who): (&str, &str),
) -> DbResult<()> {
    sqlx::query!(
        "update job set put_away_at = case when $3 then now() end, version = version + 1
         where shop_id = $1 and job_no = $2",
        store.shop_id,
        job_no,
        away
    )
    .execute(&mut **tx)
    .await?;
    sqlx::query!(
        "insert into job_mark (shop_id, job_no, mark, reason, who) values ($1, $2, $3, $4, $5)",
        store.shop_id,
        job_no,
        if away { "put_away" } else { "brought_back" },
        reason,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Whether pieces are chosen for any check of a job.
pub async fn holds_pieces(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<bool> {
    Ok(sqlx::query_scalar!(
        r#"select exists (select from setting where shop_id = $1 and job_no = $2 and state = 'chosen') as "any!""#,
        store.shop_id,
        job_no
    )
    .fetch_one(&mut **tx)
    .await?)
}

/// What was done with a job as a whole.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobMark {
    pub mark: MarkOfJob,
    /// Why, where a reason was given.
    pub reason: String,
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// What was done with a job as a whole, the newest first.
pub async fn marks(store: &Store, job_no: i32) -> DbResult<Vec<JobMark>> {
    let rows = sqlx::query!(
        "select mark, reason, who, at from job_mark
         where shop_id = $1 and job_no = $2 order by mark_no desc limit 200",
        store.shop_id,
        job_no
    )
    .fetch_all(&store.pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(JobMark {
                mark: word(&r.mark, || format!("a mark of job {job_no}"))?,
                reason: r.reason,
                who: r.who,
                at: r.at,
            })
        })
        .collect()
}

/// Writes a job's card anew; what it was stays on record.
pub async fn put_card(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    card: &Card<'_>,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "insert into job_card_was (shop_id, job_no, title, customer, complaint, intake, who)
         select shop_id, job_no, title, customer, complaint, intake, $3 from job where shop_id = $1 and job_no = $2",
        store.shop_id,
        job_no,
        who
    )
    .execute(&mut **tx)
    .await?;
    sqlx::query!(
        "update job set title = $3, customer = $4, complaint = $5, intake = $6, version = version + 1
         where shop_id = $1 and job_no = $2",
        store.shop_id,
        job_no,
        card.title,
        card.customer,
        card.complaint,
        Json(&card.intake) as _
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// A job's card as it was before somebody changed it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CardWas {
    pub title: String,
    pub customer: String,
    pub complaint: String,
    #[schema(value_type = Intake)]
    pub intake: Json<Intake>,
    /// Who changed it.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// A job's card as it was, the newest change first.
pub async fn cards_were(store: &Store, job_no: i32) -> DbResult<Vec<CardWas>> {
    Ok(sqlx::query_as!(
        CardWas,
        r#"select title, customer, complaint, intake as "intake: Json<Intake>", who, at from job_card_was
           where shop_id = $1 and job_no = $2 order by card_no desc limit 50"#,
        store.shop_id,
        job_no
    )
    .fetch_all(&store.pool)
    .await?)
}

/// Another job on the same box.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SameBox {
    pub job_no: i32,
    pub title: String,
    pub opened_at: DateTime<Utc>,
    /// When it was handed over, where it was.
    pub finished_at: Option<DateTime<Utc>>,
}

/// The other jobs on the box of that stamped number, the newest first; none where none is stamped.
pub async fn of_same_box(store: &Store, job_no: i32, stamped: &str) -> DbResult<Vec<SameBox>> {
    if stamped.is_empty() {
        return Ok(Vec::new());
    }
    Ok(sqlx::query_as!(
        SameBox,
        "select job_no, title, opened_at, finished_at from job
         where shop_id = $1 and job_no <> $2 and intake @> $3 and put_away_at is null
         order by job_no desc limit 10",
        store.shop_id,
        job_no,
        json!({"stamped": stamped})
    )
    .fetch_all(&store.pool)
    .await?)
}

/// Strikes a note out, or restores it. `false` where there is no such note.
pub async fn mark_note(
    store: &Store,
    tx: &mut Tx,
    (job_no, note_no): (i32, i64),
    struck: bool,
    who: &str,
) -> DbResult<bool> {
    let marked = sqlx::query!(
        "insert into job_note_mark (shop_id, job_no, note_no, struck, who)
         select shop_id, job_no, note_no, $4, $5 from job_note
         where shop_id = $1 and job_no = $2 and note_no = $3",
        store.shop_id,
        job_no,
        note_no,
        struck,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(marked.rows_affected() == 1)
}

/// Something noted on a job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Note {
    pub note_no: i64,
    pub said: String,
    /// The sum it comes from, as an address of this program; empty where from none.
    pub address: String,
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
    /// Who struck it out, where it is.
    pub struck_by: Option<String>,
}

/// What was noted on a job, the newest first.
pub async fn notes(store: &Store, job_no: i32) -> DbResult<Vec<Note>> {
    Ok(sqlx::query_as!(
        Note,
        r#"select n.note_no, n.said, n.address, n.who, n.at, m.who as "struck_by?"
           from job_note n left join lateral (
             select who, struck from job_note_mark m
             where m.shop_id = n.shop_id and m.job_no = n.job_no and m.note_no = n.note_no
             order by mark_no desc limit 1) m on m.struck
           where n.shop_id = $1 and n.job_no = $2 order by n.note_no desc limit 200"#,
        store.shop_id,
        job_no
    )
    .fetch_all(&store.pool)
    .await?)
}

/// Notes something on a job.
pub async fn note(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    (said, address): (&str, &str),
    who: &str,
) -> DbResult<i64> {
    let note_no = sqlx::query_scalar!(
        "insert into job_note (shop_id, job_no, said, address, who) values ($1, $2, $3, $4, $5)
         returning note_no",
        store.shop_id,
        job_no,
        said,
        address,
        who
    )
    .fetch_one(&mut **tx)
    .await?;
    Ok(note_no)
}
