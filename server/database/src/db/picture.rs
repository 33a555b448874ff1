//! Pictures of jobs.

use chrono::{DateTime, Utc};

use super::error::{DbError, DbResult};
use super::{Store, Tx};

/// A picture without its bytes.
#[derive(Clone, Debug)]
pub struct PictureRow {
    pub picture_no: i64,
    /// The key of the part that it shows; empty where it is none.
    pub part: String,
    /// The key of the step that it shows; empty where it is none.
    pub step: String,
    pub said: String,
    pub width: i32,
    pub height: i32,
    pub who: String,
    pub at: DateTime<Utc>,
    /// Who took it out and when, where it is out.
    pub struck_by: Option<String>,
    pub struck_at: Option<DateTime<Utc>>,
}

/// A picture as it is kept.
#[derive(Debug)]
pub struct NewPicture<'a> {
    pub part: &'a str,
    pub step: &'a str,
    pub said: &'a str,
    pub width: i32,
    pub height: i32,
    /// JPEG, as large as it is kept.
    pub body: &'a [u8],
    /// JPEG, for lists.
    pub small: &'a [u8],
}

/// The pictures of a job, the oldest first.
pub async fn list<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: i32,
) -> DbResult<Vec<PictureRow>> {
    Ok(sqlx::query_as!(
        PictureRow,
        r#"select p.picture_no, p.part, p.step, p.said, p.width, p.height, p.who, p.at,
                  case when m.struck then m.who end as struck_by, case when m.struck then m.at end as struck_at
           from picture p
           left join lateral (select struck, who, at from picture_mark
             where shop_id = p.shop_id and job_no = p.job_no and picture_no = p.picture_no
             order by mark_no desc limit 1) m on true
           where p.shop_id = $1 and p.job_no = $2 order by p.picture_no"#,
        store.shop_id,
        job_no
    )
    .fetch_all(run)
    .await?)
}

/// The bytes of a picture, as kept or small.
pub async fn bytes(store: &Store, job_no: i32, picture_no: i64, small: bool) -> DbResult<Vec<u8>> {
    sqlx::query_scalar!(
        r#"select case when $4 then small else body end as "bytes!" from picture
           where shop_id = $1 and job_no = $2 and picture_no = $3"#,
        store.shop_id,
        job_no,
        picture_no,
        small
    )
    .fetch_optional(&store.pool)
    .await?
    .ok_or_else(|| DbError::Missing("There is no such picture of this job.".into()))
}

/// Keeps a picture, and returns its number.
pub async fn add(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    new: &NewPicture<'_>,
    who: &str,
) -> DbResult<i64> {
    let number = sqlx::query_scalar!(
        "insert into picture (shop_id, job_no, part, step, said, width, height, body, small, who)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) returning picture_no",
        store.shop_id,
        job_no,
        new.part,
        new.step,
        new.said,
        new.width,
        new.height,
        new.body,
        new.small,
        who
    );
    Ok(number.fetch_one(&mut **tx).await?)
}

/// Takes a picture out, or puts it back.
pub async fn mark(
    store: &Store,
    tx: &mut Tx,
    (job_no, picture_no): (i32, i64),
    struck: bool,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "insert into picture_mark (shop_id, job_no, picture_no, struck, who) values ($1, $2, $3, $4, $5)",
        store.shop_id,
        job_no,
        picture_no,
        struck,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// The pictures of the shop that are out, each with its job and since when, up to so many.
pub async fn out(store: &Store, most: i64) -> DbResult<Vec<(i32, i64, DateTime<Utc>)>> {
    let rows = sqlx::query!(
        r#"select p.job_no, p.picture_no, m.at from picture p
           join lateral (select struck, at from picture_mark
             where shop_id = p.shop_id and job_no = p.job_no and picture_no = p.picture_no
             order by mark_no desc limit 1) m on m.struck
           where p.shop_id = $1 order by m.at limit $2"#,
        store.shop_id,
        most
    )
    .fetch_all(&store.pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (r.job_no, r.picture_no, r.at))
        .collect())
}

/// Lets a picture go for good, where it is still out since then.
pub async fn let_go(
    store: &Store,
    tx: &mut Tx,
    (job_no, picture_no): (i32, i64),
    struck_at: DateTime<Utc>,
) -> DbResult<()> {
    let marks = sqlx::query!(
        "delete from picture_mark m where shop_id = $1 and job_no = $2 and picture_no = $3
         and not exists (select 1 from picture_mark l where l.shop_id = m.shop_id and l.job_no = m.job_no
           and l.picture_no = m.picture_no and l.at > $4)",
        store.shop_id,
        job_no,
        picture_no,
        struck_at
    );
    if marks.execute(&mut **tx).await?.rows_affected() > 0 {
        sqlx::query!(
            "delete from picture where shop_id = $1 and job_no = $2 and picture_no = $3",
            store.shop_id,
            job_no,
            picture_no
        )
        .execute(&mut **tx)
        .await?;
    }
    Ok(())
}

/// Moves a job's pictures to when the job was opened.
pub async fn move_times(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<()> {
    sqlx::query!(
        "update picture p set at = j.opened_at from job j
         where j.shop_id = $1 and j.job_no = $2 and p.shop_id = $1 and p.job_no = $2",
        store.shop_id,
        job_no
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
