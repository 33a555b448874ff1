//! The writes on the shop itself: what it goes by, and who works there.

use anvil_arithmetic::units::length::Unit;
use anvil_rules::shop::people;
use anvil_rules::texts::shown;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use crate::db::Store;
use crate::db::shop::{self, Person, Sign};
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::ApiResult;

/// What a shop is to go by.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShopIn {
    pub name: String,
    /// Where it is.
    #[serde(default)]
    pub place: String,
    /// The unit its bench starts in.
    pub unit: Unit,
    /// The chance in window it asks for, 0.5 to below 1.
    pub floor: f64,
    /// The initials.
    pub who: String,
}

/// Writes what the shop goes by anew.
///
/// # Errors
/// Where a field says what cannot be, or it has changed since it was seen.
pub async fn put(
    store: &Store,
    key: &IdempotencyKey,
    seen: &IfMatch,
    new: &ShopIn,
) -> ApiResult<()> {
    let sign = &Sign {
        name: people::name("name", &new.name)?,
        place: shown(&new.place),
        unit: people::bench_unit(new.unit)?,
        floor: people::required_probability(new.floor)?,
    };
    Write::once(store, key, &new.who, ("shop", new), |mut tx| async move {
        seen.still(shop::hold(store, &mut tx).await?, "The shop")?;
        shop::put(store, &mut tx, sign, &new.who).await?;
        Ok((tx, ()))
    })
    .await
}

/// Somebody who works here, or no longer does.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PersonIn {
    /// The initials that go on every record: two to four letters.
    pub initials: String,
    pub name: String,
    /// Works here no longer.
    #[serde(default)]
    pub gone: bool,
    /// Who says so.
    pub who: String,
}

/// Puts somebody in, or writes them anew; nobody is taken out, for their initials stand on records.
///
/// # Errors
/// Where initials or name are none, or nobody would be left.
pub async fn put_person(store: &Store, key: &IdempotencyKey, new: &PersonIn) -> ApiResult<()> {
    let person = &Person {
        initials: people::initials(&new.initials)?,
        name: people::name("name", &new.name)?.to_owned(),
        gone: new.gone,
    };
    Write::once(store, key, &new.who, ("person", new), |mut tx| async move {
        shop::hold(store, &mut tx).await?;
        if person.gone {
            people::may_go(shop::others(store, &mut tx, &person.initials).await?)?;
        }
        shop::put_person(store, &mut tx, person, &new.who).await?;
        Ok((tx, ()))
    })
    .await
}
