//! The gauge register.

use anvil_core::gauge::{Figures, Repeatability};
use anvil_core::length::Length;
use chrono::NaiveDate;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Store, Tx};
use crate::problem::{Answer, Problem};

/// What kind of gauge it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the names are the trade's own
pub enum GaugeKind {
    Dial,
    Depth,
    Micrometer,
    Feeler,
    TorqueWrench,
    SpringScale,
}

impl GaugeKind {
    /// The name it has in the database.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Dial => "dial",
            Self::Depth => "depth",
            Self::Micrometer => "micrometer",
            Self::Feeler => "feeler",
            Self::TorqueWrench => "torque_wrench",
            Self::SpringScale => "spring_scale",
        }
    }

    /// Whether it reads lengths.
    pub const fn of_length(self) -> bool {
        !matches!(self, Self::TorqueWrench | Self::SpringScale)
    }
}

/// A gauge as the register has it.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct GaugeRow {
    /// Its short name.
    pub gauge_key: String,
    /// What people call it.
    pub name: String,
    /// What kind it is.
    pub kind: GaugeKind,
    /// The unit it is read in: `mm`, `um`, `thou` or `in`; `n_m` for a wrench, `n` for a scale.
    pub unit: String,
    /// The step of its scale in nanometres, where it reads lengths; a feeler set's finest step.
    pub resolution_nm: Option<i64>,
    /// Its permissible error, ± nanometres; of one leaf for a feeler set.
    pub permissible_error_nm: Option<i64>,
    /// Its standard deviation in nanometres, where it is stated.
    pub repeatability_nm: Option<f64>,
    /// The degrees of freedom behind that; none where it is taken as it is.
    pub repeatability_dof: Option<f64>,
    /// The step in newton metres or newtons, where it reads those.
    pub resolution_si: Option<f64>,
    /// The permissible error in the same.
    pub permissible_error_si: Option<f64>,
    /// The standard deviation in the same, where it is stated.
    pub repeatability_si: Option<f64>,
    /// The leaves of a feeler set in nanometres.
    pub leaves_nm: Vec<i64>,
    /// When it was checked last.
    pub checked_on: Option<NaiveDate>,
    /// When it is due to be checked.
    pub due_on: Option<NaiveDate>,
    /// Where it speaks, `HOST:PORT`; empty where it is read by eye.
    pub live_at: String,
    /// It is no longer used.
    pub retired: bool,
    /// It is the one taken up of its kind unless another is chosen.
    pub usual: bool,
    /// For `If-Match`.
    pub version: i32,
}

impl GaugeRow {
    /// What it can see, where it reads lengths.
    pub fn figures(&self) -> Option<Figures> {
        Some(Figures {
            resolution_nm: Length::from_nm(self.resolution_nm?),
            permissible_error_nm: Length::from_nm(self.permissible_error_nm?),
            repeatability: self.repeatability_nm.map(|s_nm| Repeatability {
                s_nm,
                dof: self.repeatability_dof,
            }),
        })
    }
}

/// The register, the usual ones first.
pub async fn list<'e>(store: &Store, run: impl sqlx::PgExecutor<'e>) -> Answer<Vec<GaugeRow>> {
    let row = sqlx::query!(
        r#"select coalesce(jsonb_agg(to_jsonb(g) order by g.retired, g.usual desc, g.kind, g.name), '[]')
             as "gauges!: sqlx::types::Json<Vec<GaugeRow>>"
           from gauge g where g.shop_id = $1"#,
        store.shop_id
    )
    .fetch_one(run)
    .await?;
    Ok(row.gauges.0)
}

/// One gauge.
pub async fn one(store: &Store, key: &str) -> Answer<GaugeRow> {
    list(store, &store.pool)
        .await?
        .into_iter()
        .find(|g| g.gauge_key == key)
        .ok_or_else(|| Problem::missing(format!("The register has no gauge “{key}”.")))
}

/// Puts a gauge in the register, or changes it where it is there and `seen` is its version. `false`
/// where it has changed meanwhile, or is new and there already.
pub async fn put(
    store: &Store,
    tx: &mut Tx,
    gauge: &GaugeRow,
    seen: Option<i32>,
    who: &str,
) -> Answer<bool> {
    if gauge.usual {
        sqlx::query!(
            "update gauge set usual = false where shop_id = $1 and kind = $2 and usual and gauge_key <> $3",
            store.shop_id,
            gauge.kind.name(),
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
        gauge.kind.name(),
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
        serde_json::to_value(gauge).map_err(Problem::server)?,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(true)
}
