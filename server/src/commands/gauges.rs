//! The writes on the gauge register.

use anvil_rules::shop::gauge_register::RegisteredGauge;
use serde::Serialize;

use super::Write;
use super::locked_check::settle_again;
use crate::db::check::Bump;
use crate::db::{Store, gauge, locks};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};

/// Puts a gauge in the register, or changes it where `seen` is its version; where open checks that are measured with it
/// stand is worked out again.
///
/// # Errors
/// Where it has changed since it was seen, or is new and there already.
pub async fn put<R: Serialize>(
    store: &Store,
    key: &IdempotencyKey,
    (gauge, seen): (&RegisteredGauge, Option<i32>),
    (who, request): (&str, &R),
) -> ApiResult<()> {
    Write::once(store, key, who, ("gauge", request), |mut tx| async move {
        let checks = gauge::measured_with(store, &mut tx, &gauge.gauge_key).await?;
        let jobs: Vec<i32> = checks.iter().map(|c| c.0).collect();
        locks::hold_jobs(store, &mut tx, &jobs).await?;
        if gauge::put(store, &mut tx, gauge, seen, who).await? {
            settle_again(store, &mut tx, &checks, Bump::Always).await?;
            return Ok((tx, ()));
        }
        Err(if seen.is_some() {
            Problem::changed(
                "changed-meanwhile",
                "This gauge has changed since you looked, or is of another kind. What it says now is on the screen; look again, then decide.",
            )
        } else {
            Problem::field(
                "key",
                "There is a gauge of this key already: choose another.",
            )
        })
    })
    .await
}
