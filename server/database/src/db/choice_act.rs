//! What one act of choosing for several checks changed of each.

use anvil_arithmetic::choose::SizeCount;
use chrono::{DateTime, Utc};
use serde::Serialize;
use sqlx::types::Json;
use utoipa::ToSchema;

use super::error::DbResult;
use super::{Store, Tx};

/// What an act changed of one check.
pub struct Changed<'a> {
    pub job_no: i32,
    pub check_key: &'a str,
    /// The pieces that were chosen before.
    pub was: &'a [SizeCount],
    /// The pieces that are chosen now.
    pub now: &'a [SizeCount],
    /// Nobody has to be told.
    pub is_seen: bool,
}

/// Notes what an act changed of one check.
pub async fn note(
    store: &Store,
    tx: &mut Tx,
    (act_key, undoes): (&str, Option<&str>),
    changed: &Changed<'_>,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "insert into choice_act (shop_id, act_key, job_no, check_key, was, now, undoes, who, seen_by, seen_at)
         values ($1, $2, $3, $4, $5, $6, $7, $8, case when $9 then $8 end, case when $9 then now() end)",
        store.shop_id,
        act_key,
        changed.job_no,
        changed.check_key,
        Json(changed.was) as _,
        Json(changed.now) as _,
        undoes,
        who,
        changed.is_seen
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// A check that an act changed, with the pieces chosen before and then.
pub struct ActLine {
    pub job_no: i32,
    pub check_key: String,
    pub was: Vec<SizeCount>,
    pub now: Vec<SizeCount>,
}

/// What an act changed, in the order of the checks; and whether it was undone.
pub async fn lines(store: &Store, tx: &mut Tx, act_key: &str) -> DbResult<(Vec<ActLine>, bool)> {
    let rows = sqlx::query!(
        r#"select job_no, check_key, was as "was: Json<Vec<SizeCount>>", now as "now: Json<Vec<SizeCount>>",
                  exists (select from choice_act u where u.shop_id = c.shop_id and u.undoes = c.act_key) as "undone!"
           from choice_act c where shop_id = $1 and act_key = $2 order by job_no, check_key"#,
        store.shop_id,
        act_key
    )
    .fetch_all(&mut **tx)
    .await?;
    let undone = rows.iter().any(|r| r.undone);
    let lines = rows.into_iter().map(|r| ActLine {
        job_no: r.job_no,
        check_key: r.check_key,
        was: r.was.0,
        now: r.now.0,
    });
    Ok((lines.collect(), undone))
}

/// Says that somebody has seen what an act changed of a check; of all its checks where none is named.
pub async fn see(
    store: &Store,
    tx: &mut Tx,
    act_key: &str,
    check: Option<(i32, &str)>,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "update choice_act set seen_by = $5, seen_at = now()
         where shop_id = $1 and act_key = $2 and seen_at is null
           and ($3::integer is null or (job_no = $3 and check_key = $4))",
        store.shop_id,
        act_key,
        check.map(|c| c.0),
        check.map(|c| c.1),
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// What another's choice has changed of a check, for the next who looks at its job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ChoiceTold {
    /// The act, to be undone or seen by.
    pub act_key: String,
    pub check_key: String,
    /// The pieces that were chosen before.
    #[schema(value_type = Vec<SizeCount>)]
    pub was: Json<Vec<SizeCount>>,
    /// The pieces that are chosen now.
    #[schema(value_type = Vec<SizeCount>)]
    pub now: Json<Vec<SizeCount>>,
    /// The other jobs of that act.
    pub other_jobs: Vec<i32>,
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// What others' choices have changed of a job's checks and nobody has seen yet, the newest first.
pub async fn unseen(store: &Store, job_no: i32) -> DbResult<Vec<ChoiceTold>> {
    Ok(sqlx::query_as!(
        ChoiceTold,
        r#"select act_key, check_key, was as "was: Json<Vec<SizeCount>>", now as "now: Json<Vec<SizeCount>>", who, at,
                  coalesce((select array_agg(distinct o.job_no) from choice_act o
                    where o.shop_id = c.shop_id and o.act_key = c.act_key and o.job_no <> c.job_no), '{}') as "other_jobs!"
           from choice_act c where shop_id = $1 and job_no = $2 and seen_at is null order by at desc limit 50"#,
        store.shop_id,
        job_no
    )
    .fetch_all(&store.pool)
    .await?)
}
