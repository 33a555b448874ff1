//! Where sheets and drawers do not say the same of a family, and which open checks draw from it.

use std::sync::Arc;

use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::Sheet;
use anvil_rules::shop::family_figures::{Concerned, FamilyConflict};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::job::{self, OpenCheck};
use crate::db::{Store, drawer, sheet};
use crate::http::problem::ApiResult;

/// What the newest revision of a sheet says of a family otherwise than its drawer.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SheetSays {
    pub sheet_key: String,
    /// What people call the box.
    pub sheet_name: String,
    pub revision: i32,
    pub conflict: FamilyConflict,
    /// The checks of open jobs that draw from that drawer.
    pub concerned: Vec<Concerned>,
}

/// All of them.
///
/// # Errors
/// Where the database does not answer.
pub async fn conflicts(store: &Store) -> ApiResult<Vec<SheetSays>> {
    let drawers = drawer::list(store).await?;
    let mut found = Vec::new();
    // On its connection no longer, once they are there: each of them asks again.
    let newest = sheet::newest_of_all(store, &mut store.moment().await?).await?;
    for (revision, sheet) in newest {
        for family in &sheet.families {
            let drawer = drawers.iter().find(|d| d.key == family.key);
            let Some(conflict) = drawer.and_then(|d| d.conflict(family)) else {
                continue;
            };
            found.push(SheetSays {
                sheet_key: sheet.key.clone(),
                sheet_name: sheet.name.clone(),
                revision,
                concerned: concerned(store, &family.key).await?,
                conflict,
            });
        }
    }
    Ok(found)
}

/// The checks of open jobs that may draw from a family, the oldest job first, each with its sheet.
///
/// # Errors
/// Where the database does not answer.
pub async fn drawing_from(store: &Store, family: &str) -> ApiResult<Vec<(OpenCheck, Arc<Sheet>)>> {
    let mut found = Vec::new();
    let unread = &mut Vec::new();
    for row in job::open_checks(store, &store.pool, None, unread).await? {
        let sheet = sheet::built(
            store,
            &store.pool,
            (&row.sheet_key, row.revision, &row.variant),
        )
        .await?;
        let draws = Spec::of(&sheet, &row.check_key)
            .is_ok_and(|spec| spec.families().iter().any(|key| key == family));
        if draws {
            found.push((row, sheet));
        }
    }
    Ok(found)
}

async fn concerned(store: &Store, family: &str) -> ApiResult<Vec<Concerned>> {
    let checks = drawing_from(store, family).await?;
    let jobs = checks.into_iter().map(|(row, sheet)| Concerned {
        name: sheet
            .check(&row.check_key)
            .map_or_else(|| row.check_key.clone(), |c| c.name.clone()),
        title: row.title,
        job_no: row.job_no,
        check_key: row.check_key,
    });
    Ok(jobs.collect())
}
