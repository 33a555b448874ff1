//! What a job's file takes from the database beside its own rows, and what it needs there.

use serde_json::Value;

use super::error::DbResult;
use super::{Store, Tx};

/// The gauges that a job was measured with, each as its row.
pub async fn gauges(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<Vec<Value>> {
    let rows = sqlx::query_scalar!(
        r#"select to_jsonb(g) - 'shop_id' as "row!" from gauge g
           where shop_id = $1 and gauge_key in (select gauge_key from reading where shop_id = $1 and job_no = $2)
           order by gauge_key"#,
        store.shop_id,
        job_no
    );
    Ok(rows.fetch_all(&mut **tx).await?)
}

/// A gauge's row, where there is one of that key.
pub async fn gauge(store: &Store, tx: &mut Tx, key: &str) -> DbResult<Option<Value>> {
    let row = sqlx::query_scalar!(
        r#"select to_jsonb(g) - 'shop_id' as "row!" from gauge g where shop_id = $1 and gauge_key = $2"#,
        store.shop_id,
        key
    );
    Ok(row.fetch_optional(&mut **tx).await?)
}

/// The revision of a sheet whose text this is, where the shop has it; and whether it has any of that key.
pub async fn revision_of(
    store: &Store,
    tx: &mut Tx,
    key: &str,
    body: &str,
) -> DbResult<(Option<i32>, bool)> {
    let row = sqlx::query!(
        r#"select max(revision) filter (where body = $3) as same, count(*) > 0 as "any!"
           from sheet where shop_id = $1 and sheet_key = $2"#,
        store.shop_id,
        key,
        body
    )
    .fetch_one(&mut **tx)
    .await?;
    Ok((row.same, row.any))
}

/// A line in a drawer for a size that was fitted elsewhere: none of it is there.
pub async fn line_of(
    store: &Store,
    tx: &mut Tx,
    (family, thickness_nm, grade): (&str, i64, &str),
) -> DbResult<()> {
    sqlx::query!(
        "insert into stock (shop_id, family_key, thickness_nm, grade, u_nm, on_hand)
         values ($1, $2, $3, $4, case when $4::text = 'marked' then null else 0 end, 0)
         on conflict do nothing",
        store.shop_id,
        family,
        thickness_nm,
        grade
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
