//! The shop and its people.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::error::{DbError, DbResult, word};
use super::{Store, Tx};
use anvil_arithmetic::refusal::Refusal;
use anvil_arithmetic::units::length::Unit;

/// Whose bench this is: its name, its people, its required probability.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Shop {
    pub name: String,
    /// Where it is.
    pub place: String,
    /// The unit its bench starts in.
    pub unit: Unit,
    /// The chance in window it asks for, 0.5 to below 1.
    pub floor: f64,
    /// Who works there, or did.
    pub people: Vec<Person>,
    /// For `If-Match`.
    pub version: i32,
}

/// Somebody at the bench.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Person {
    /// The initials that go on every record.
    pub initials: String,
    pub name: String,
    /// Works here no longer.
    #[serde(default)]
    pub gone: bool,
}

/// The shop with its people.
pub async fn shop(store: &Store) -> DbResult<Shop> {
    let shop = sqlx::query!(
        "select name, place, unit, floor, version from shop where shop_id = $1",
        store.shop_id
    )
    .fetch_optional(&store.pool)
    .await?
    .ok_or_else(|| {
        DbError::Missing("This database holds no shop yet. Load one: dry-anvil load demo".into())
    })?;
    let people = people(store, &store.pool).await?;
    Ok(Shop {
        name: shop.name,
        place: shop.place,
        unit: word(&shop.unit, || "the shop".into())?,
        floor: shop.floor,
        version: shop.version,
        people,
    })
}

/// Everybody at the bench, in the order of their initials.
pub async fn people<'e>(store: &Store, run: impl sqlx::PgExecutor<'e>) -> DbResult<Vec<Person>> {
    let people = sqlx::query_as!(
        Person,
        "select initials, name, gone from person where shop_id = $1 order by initials",
        store.shop_id
    );
    Ok(people.fetch_all(run).await?)
}

/// Fails, naming the field, unless somebody of the shop has these initials.
pub async fn known(store: &Store, tx: &mut Tx, who: &str) -> DbResult<()> {
    let found = sqlx::query!(
        "select initials from person where shop_id = $1 and initials = $2",
        store.shop_id,
        who
    )
    .fetch_optional(&mut **tx)
    .await?;
    found.map(|_| ()).ok_or_else(|| nobody(who).into())
}

/// What to say to somebody whom the shop does not know.
pub fn nobody(who: &str) -> Refusal {
    Refusal::field(
        "who",
        if who.is_empty() {
            "Nobody is at the bench: choose your initials, at the top right.".to_owned()
        } else {
            format!("“{who}” is nobody of this shop: choose initials from the list.")
        },
    )
}

/// Whether there is a shop, and whether it is there only in part, its loading broken off.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stands {
    /// There is none.
    None,
    /// Its files have come in in part.
    InPart,
    /// It is there.
    Whole,
}

/// Whether there is a shop.
pub async fn stands(store: &Store) -> DbResult<Stands> {
    let loading = sqlx::query_scalar!("select loading from shop where shop_id = $1", store.shop_id)
        .fetch_optional(&store.pool)
        .await?;
    Ok(match loading {
        None => Stands::None,
        Some(true) => Stands::InPart,
        Some(false) => Stands::Whole,
    })
}

/// Takes out all of a shop that is there only in part.
pub async fn clear(tx: &mut Tx) -> DbResult<()> {
    // Whatever there is refers to its shop.
    sqlx::query!("truncate shop cascade")
        .execute(&mut **tx)
        .await?;
    Ok(())
}

/// All that belongs to it has come in, and is safe on the disk with this transaction.
pub async fn is_whole(store: &Store, tx: &mut Tx) -> DbResult<()> {
    // Whatever was written before it is then, too.
    sqlx::query!("set local synchronous_commit = on")
        .execute(&mut **tx)
        .await?;
    sqlx::query!(
        "update shop set loading = false where shop_id = $1",
        store.shop_id
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Puts in a shop of which all else is still to come. `false` where there is one.
pub async fn found(
    store: &Store,
    tx: &mut Tx,
    name: &str,
    place: &str,
    unit: Unit,
    floor: f64,
) -> DbResult<bool> {
    let made = sqlx::query!(
        "insert into shop (shop_id, name, place, unit, floor, loading) values ($1, $2, $3, $4, $5, true)
         on conflict do nothing",
        store.shop_id,
        name,
        place,
        <&str>::from(unit),
        floor
    )
    .execute(&mut **tx)
    .await?;
    Ok(made.rows_affected() == 1)
}

/// Puts in somebody at the bench.
pub async fn add_person(store: &Store, tx: &mut Tx, person: &Person) -> DbResult<()> {
    sqlx::query!(
        "insert into person (shop_id, initials, name) values ($1, $2, $3)",
        store.shop_id,
        person.initials,
        person.name
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// What a shop goes by.
pub struct Sign<'a> {
    pub name: &'a str,
    /// Where it is.
    pub place: &'a str,
    /// The unit its bench starts in.
    pub unit: Unit,
    /// The chance in window it asks for.
    pub floor: f64,
}

/// The version of the shop, held until the transaction ends.
pub async fn hold(store: &Store, tx: &mut Tx) -> DbResult<i32> {
    Ok(sqlx::query_scalar!(
        "select version from shop where shop_id = $1 for update",
        store.shop_id
    )
    .fetch_one(&mut **tx)
    .await?)
}

/// Writes what the shop goes by anew; what it was stays on record.
pub async fn put(store: &Store, tx: &mut Tx, sign: &Sign<'_>, who: &str) -> DbResult<()> {
    sqlx::query!(
        "insert into shop_was (shop_id, name, place, unit, floor, who)
         select shop_id, name, place, unit, floor, $2 from shop where shop_id = $1",
        store.shop_id,
        who
    )
    .execute(&mut **tx)
    .await?;
    sqlx::query!(
        "update shop set name = $2, place = $3, unit = $4, floor = $5, version = version + 1 where shop_id = $1",
        store.shop_id,
        sign.name,
        sign.place,
        <&str>::from(sign.unit),
        sign.floor
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// How many work here beside somebody.
pub async fn others(store: &Store, tx: &mut Tx, initials: &str) -> DbResult<i64> {
    Ok(sqlx::query_scalar!(
        r#"select count(*) as "count!" from person where shop_id = $1 and initials <> $2 and not gone"#,
        store.shop_id,
        initials
    )
    .fetch_one(&mut **tx)
    .await?)
}

/// Puts somebody in, or writes them anew; each is on record.
pub async fn put_person(store: &Store, tx: &mut Tx, person: &Person, who: &str) -> DbResult<()> {
    sqlx::query!(
        "insert into person (shop_id, initials, name, gone) values ($1, $2, $3, $4)
         on conflict (shop_id, initials) do update set name = excluded.name, gone = excluded.gone",
        store.shop_id,
        person.initials,
        person.name,
        person.gone
    )
    .execute(&mut **tx)
    .await?;
    sqlx::query!(
        "insert into person_said (shop_id, initials, name, gone, who) values ($1, $2, $3, $4, $5)",
        store.shop_id,
        person.initials,
        person.name,
        person.gone,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
