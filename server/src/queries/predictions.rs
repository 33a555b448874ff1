//! How predictions came out, over the finished boxes of a sheet.

use anvil_arithmetic::uncertainty::bias::{Bias, CameOut, bias};
use chrono::{DateTime, Utc};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::{Store, check, sheet};
use crate::http::problem::ApiResult;

/// How the predictions for one check of a sheet came out.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PastOfCheck {
    pub check_key: String,
    /// What people call it.
    pub name: String,
    /// The finished boxes, the oldest first.
    pub boxes: Vec<PastBox>,
    /// The usual difference; none of too few boxes.
    pub usual: Option<Bias>,
}

/// One finished box.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PastBox {
    pub job_no: i32,
    /// What was on the bench.
    pub title: String,
    /// When it was handed over.
    pub finished_at: DateTime<Utc>,
    /// What was predicted and what came of it.
    #[serde(flatten)]
    pub outcome: CameOut,
    /// Achieved less predicted, in nanometres.
    pub difference_nm: f64,
    /// The half-width of the 95 % interval of that.
    pub expanded_nm: f64,
}

/// All checks of a sheet that pieces were fitted for, in the sheet's order; or the one asked for.
pub async fn of_sheet(store: &Store, key: &str, one: Option<&str>) -> ApiResult<Vec<PastOfCheck>> {
    let rows = check::past(store, key, one).await?;
    let (_, newest, _) = sheet::newest(store, key).await?;
    let mut checks: Vec<PastOfCheck> = Vec::new();
    for row in rows {
        let outcome = CameOut {
            predicted_nm: row.predicted_nm,
            u_predicted_nm: row.u_predicted_nm,
            achieved_nm: row.achieved_nm,
            u_achieved_nm: row.u_achieved_nm,
        };
        let past = PastBox {
            job_no: row.job_no,
            title: row.title,
            finished_at: row.finished_at,
            difference_nm: outcome.difference_nm(),
            expanded_nm: outcome.expanded_nm(),
            outcome,
        };
        match checks.iter_mut().find(|c| c.check_key == row.check_key) {
            Some(check) => check.boxes.push(past),
            None => checks.push(PastOfCheck {
                name: newest
                    .check(&row.check_key)
                    .map_or_else(|| row.check_key.clone(), |c| c.name.clone()),
                check_key: row.check_key,
                boxes: vec![past],
                usual: None,
            }),
        }
    }
    for check in &mut checks {
        let outcomes: Vec<CameOut> = check.boxes.iter().map(|b| b.outcome).collect();
        check.usual = bias(&outcomes);
    }
    let place = |key: &str| newest.checks.iter().position(|c| c.key == key);
    checks.sort_by_key(|c| place(&c.check_key).unwrap_or(usize::MAX));
    Ok(checks)
}

/// How the predictions for one check came out; none where none was ever fitted.
pub async fn of_check(store: &Store, sheet: &str, key: &str) -> ApiResult<Option<PastOfCheck>> {
    Ok(of_sheet(store, sheet, Some(key)).await?.into_iter().next())
}
