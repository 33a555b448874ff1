//! The writes on spec sheets.

use anvil_rules::sheet::{Chart, Sheet};

use super::Write;
use crate::db::{Store, sheet};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};

/// Takes a sheet in and returns the revision it is now; `over` is the revision that was worked on, zero for a new
/// sheet, none where that does not matter.
///
/// # Errors
/// Where the sheet has changed since `over`.
pub async fn take_in(
    store: &Store,
    key: &IdempotencyKey,
    (sheet, over): (&Sheet, Option<i32>),
    who: &str,
) -> ApiResult<i32> {
    Write::once(
        store,
        key,
        who,
        ("sheet", &(over, sheet)),
        |mut tx| async move {
            let revision = sheet::take_in(store, &mut tx, sheet, over, Some(who)).await?;
            Ok((tx, revision))
        },
    )
    .await
}

/// Gives a check of the newest revision of a sheet its selection chart, or takes it off.
///
/// # Errors
/// Where there is no such sheet or check, or the sheet has changed meanwhile.
pub async fn put_chart(
    store: &Store,
    key: &IdempotencyKey,
    (sheet_key, check_key): (&str, &str),
    chart: Option<Chart>,
    who: &str,
) -> ApiResult<i32> {
    let (revision, mut sheet, _) = sheet::newest(store, sheet_key).await?;
    let check = sheet.checks.iter_mut().find(|c| c.key == check_key);
    let check = check.ok_or_else(|| {
        Problem::missing(format!(
            "The sheet “{sheet_key}” has no check “{check_key}”."
        ))
    })?;
    check.chart = chart;
    let sheet = anvil_rules::sheet::checked(sheet).map_err(Problem::of_sheet)?;
    take_in(store, key, (&sheet, Some(revision)), who).await
}
