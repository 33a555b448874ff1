//! The writes on the gauge register.

use anvil_core::shop::gauge_register::RegisteredGauge;
use serde::Serialize;

use super::Write;
use crate::db::{Store, gauge};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};

/// Puts a gauge in the register, or changes it where `seen` is its version.
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
        if gauge::put(store, &mut tx, gauge, seen, who).await? {
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
