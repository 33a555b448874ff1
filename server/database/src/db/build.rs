//! What is on record of builds.

use anvil_rules::job::build::{BuildAct, BuildEntry};
use chrono::{DateTime, Utc};
use serde::Serialize;
use sqlx::types::Json;
use utoipa::ToSchema;

use super::error::DbResult;
use super::{Store, Tx};

/// How many earlier boxes of a sheet tell how long its steps take.
const BOXES: i64 = 12;
/// How many notes are offered for a sheet.
const MOST_NOTES: i64 = 200;

/// The facts of a job's build, in their order.
pub async fn entries<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: i32,
) -> DbResult<Vec<BuildEntry>> {
    let rows = sqlx::query!(
        r#"select said as "said: Json<BuildAct>", who, at from build_act
           where shop_id = $1 and job_no = $2 order by act_no"#,
        store.shop_id,
        job_no
    )
    .fetch_all(run)
    .await?;
    let entry = |act: Json<BuildAct>, who, at| BuildEntry {
        act: act.0,
        who,
        at,
    };
    Ok(rows
        .into_iter()
        .map(|r| entry(r.said, r.who, r.at))
        .collect())
}

/// Adds a fact, and answers when that was.
pub async fn add(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    act: &BuildAct,
    who: &str,
) -> DbResult<DateTime<Utc>> {
    let at = sqlx::query_scalar!(
        "insert into build_act (shop_id, job_no, said, who, at) values ($1, $2, $3, $4, clock_timestamp()) returning at",
        store.shop_id,
        job_no,
        Json(act) as _,
        who
    )
    .fetch_one(&mut **tx)
    .await?;
    Ok(at)
}

/// Moves the facts of a build so that the last is as old as the job's last word, and each came so many minutes after the
/// one before it.
pub async fn move_times(store: &Store, tx: &mut Tx, job_no: i32, minutes: &[f64]) -> DbResult<()> {
    // What comes after each, in seconds.
    let mut after = 0.0;
    let mut ago: Vec<f64> = minutes
        .iter()
        .rev()
        .map(|took| {
            let ago = after;
            after += took * 60.0;
            ago
        })
        .collect();
    ago.reverse();
    sqlx::query!(
        "update build_act b set at = j.touched_at - make_interval(secs => m.ago)
         from job j, unnest($3::float8[]) with ordinality m (ago, place),
           (select act_no, row_number() over (order by act_no) as place from build_act
            where shop_id = $1 and job_no = $2) n
         where j.shop_id = $1 and j.job_no = $2 and b.shop_id = $1 and b.job_no = $2
           and n.act_no = b.act_no and m.place = n.place",
        store.shop_id,
        job_no,
        &ago
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// The database's clock.
pub async fn now<'e>(run: impl sqlx::PgExecutor<'e>) -> DbResult<DateTime<Utc>> {
    Ok(sqlx::query_scalar!(r#"select clock_timestamp() as "now!""#)
        .fetch_one(run)
        .await?)
}

/// Stores what comes next in a job's build, where that has changed.
pub async fn settle(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    next: Option<&str>,
    done_of: (i32, i32),
) -> DbResult<()> {
    sqlx::query!(
        "update job set next_step = $3, steps_done = $4, step_count = $5, version = version + 1, touched_at = now()
         where shop_id = $1 and job_no = $2 and (next_step, steps_done, step_count) is distinct from ($3, $4, $5)",
        store.shop_id,
        job_no,
        next,
        done_of.0,
        done_of.1
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// What somebody found worth knowing at a step.
#[derive(Debug, Serialize, ToSchema)]
pub struct StepNote {
    pub job_no: i32,
    /// The step's key.
    pub step: String,
    pub note: String,
    pub who: String,
    pub at: DateTime<Utc>,
}

/// What was found worth knowing at the steps of a sheet, the newest first.
pub async fn notes(store: &Store, sheet_key: &str) -> DbResult<Vec<StepNote>> {
    Ok(sqlx::query_as!(
        StepNote,
        r#"select b.job_no, b.said->>'step' as "step!", b.said->>'note' as "note!", b.who, b.at
           from job j join build_act b using (shop_id, job_no)
           where j.shop_id = $1 and j.sheet_key = $2 and b.said->>'act' = 'done' and b.said->>'note' <> ''
           order by b.at desc limit $3"#,
        store.shop_id,
        sheet_key,
        MOST_NOTES
    )
    .fetch_all(&store.pool)
    .await?)
}

/// The builds of the newest other boxes of a sheet.
pub async fn of_other_boxes(
    store: &Store,
    job_no: i32,
    sheet_key: &str,
) -> DbResult<Vec<Vec<BuildEntry>>> {
    let rows = sqlx::query!(
        r#"select b.job_no, b.said as "said: Json<BuildAct>", b.who, b.at
           from (select job_no from job where shop_id = $1 and sheet_key = $2 and job_no <> $3 and steps_done > 0
                 order by job_no desc limit $4) j
             join build_act b on b.shop_id = $1 and b.job_no = j.job_no
           order by b.job_no, b.act_no"#,
        store.shop_id,
        sheet_key,
        job_no,
        BOXES
    )
    .fetch_all(&store.pool)
    .await?;
    let mut builds: Vec<(i32, Vec<BuildEntry>)> = Vec::new();
    for row in rows {
        if builds.last().is_none_or(|(job, _)| *job != row.job_no) {
            builds.push((row.job_no, Vec::new()));
        }
        if let Some((_, entries)) = builds.last_mut() {
            entries.push(BuildEntry {
                act: row.said.0,
                who: row.who,
                at: row.at,
            });
        }
    }
    Ok(builds.into_iter().map(|b| b.1).collect())
}
