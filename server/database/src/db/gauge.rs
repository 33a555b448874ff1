//! The gauge register.

use anvil_rules::shop::gauge_register::RegisteredGauge;

use super::error::{DbError, DbResult, in_row};
use super::{Store, Tx};

/// The register, the usual ones first.
pub async fn list<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
) -> DbResult<Vec<RegisteredGauge>> {
    let row = sqlx::query!(
        r#"select coalesce(jsonb_agg(to_jsonb(g) order by g.retired, g.usual desc, g.kind, g.name), '[]')
             as "gauges!: sqlx::types::Json<Vec<RegisteredGauge>>"
           from gauge g where g.shop_id = $1"#,
        store.shop_id
    )
    .fetch_one(run)
    .await
    .map_err(|e| in_row(e, || "the gauge register".into()))?;
    Ok(row.gauges.0)
}

/// One gauge.
pub async fn one(store: &Store, key: &str) -> DbResult<RegisteredGauge> {
    list(store, &store.pool)
        .await?
        .into_iter()
        .find(|g| g.gauge_key == key)
        .ok_or_else(|| DbError::Missing(format!("The register has no gauge “{key}”.")))
}

/// The checks of open jobs that are measured with a gauge and not signed, the oldest job first.
pub async fn measured_with(store: &Store, tx: &mut Tx, key: &str) -> DbResult<Vec<(i32, String)>> {
    let rows = sqlx::query!(
        "select c.job_no, c.check_key from job_check c join job j using (shop_id, job_no)
         where c.shop_id = $1 and j.standing <> 'handed_over' and c.phase not in ('signed', 'elsewhere')
           and exists (select from reading r where r.shop_id = $1 and r.job_no = c.job_no
                       and r.check_key = c.check_key and r.gauge_key = $2)
         order by c.job_no, c.check_key",
        store.shop_id,
        key
    )
    .fetch_all(&mut **tx)
    .await?;
    Ok(rows.into_iter().map(|r| (r.job_no, r.check_key)).collect())
}

/// Puts a gauge in the register, or changes it where it is there and `seen` is its version. `false`
/// where it has changed meanwhile, or is new and there already.
pub async fn put(
    store: &Store,
    tx: &mut Tx,
    gauge: &RegisteredGauge,
    seen: Option<i32>,
    who: &str,
) -> DbResult<bool> {
    if gauge.usual {
        sqlx::query!(
            "update gauge set usual = false where shop_id = $1 and kind = $2 and usual and gauge_key <> $3",
            store.shop_id,
            <&str>::from(gauge.kind),
            gauge.gauge_key
        )
        .execute(&mut **tx)
        .await?;
    }
    let done = sqlx::query!(
        "insert into gauge (shop_id, gauge_key, name, kind, unit, resolution_nm, permissible_error_nm,
                            repeatability_nm, repeatability_dof, resolution_si, permissible_error_si,
                            repeatability_si, leaves_nm, checked_on, due_on, live_at, retired, usual)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18)
         on conflict (shop_id, gauge_key) do update set
             name = excluded.name, unit = excluded.unit, resolution_nm = excluded.resolution_nm,
             permissible_error_nm = excluded.permissible_error_nm,
             repeatability_nm = excluded.repeatability_nm, repeatability_dof = excluded.repeatability_dof,
             resolution_si = excluded.resolution_si, permissible_error_si = excluded.permissible_error_si,
             repeatability_si = excluded.repeatability_si, leaves_nm = excluded.leaves_nm,
             checked_on = excluded.checked_on, due_on = excluded.due_on, live_at = excluded.live_at,
             retired = excluded.retired, usual = excluded.usual, version = gauge.version + 1
         where gauge.version = $19 and gauge.kind = excluded.kind",
        store.shop_id,
        gauge.gauge_key,
        gauge.name,
        <&str>::from(gauge.kind),
        gauge.unit,
        gauge.resolution_nm,
        gauge.permissible_error_nm,
        gauge.repeatability_nm,
        gauge.repeatability_dof,
        gauge.resolution_si,
        gauge.permissible_error_si,
        gauge.repeatability_si,
        &gauge.leaves_nm,
        gauge.checked_on,
        gauge.due_on,
        gauge.live_at,
        gauge.retired,
        gauge.usual,
        seen
    )
    .execute(&mut **tx)
    .await?;
    if done.rows_affected() == 0 {
        return Ok(false);
    }
    sqlx::query!(
        "insert into gauge_said (shop_id, gauge_key, said, who) values ($1, $2, $3, $4)",
        store.shop_id,
        gauge.gauge_key,
        serde_json::to_value(gauge).map_err(|e| DbError::unreadable(&gauge.gauge_key, e))?,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(true)
}
