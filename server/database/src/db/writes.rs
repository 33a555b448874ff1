//! Which writes have been done: the same key twice does the write once.

use std::time::{Duration, UNIX_EPOCH};

use uuid::{Uuid, Version};

use super::error::{DbError, DbResult};
use super::{Store, Tx};

/// Claims a key for a write within its transaction. `Some` is the result of the same write done
/// before; a concurrent twin waits here until the first is decided.
pub async fn claim(
    store: &Store,
    tx: &mut Tx,
    key: &str,
    fingerprint: &str,
) -> DbResult<Option<String>> {
    let fresh = sqlx::query!(
        "insert into done_write (shop_id, write_key, fingerprint) values ($1, $2, $3)
         on conflict do nothing",
        store.shop_id,
        key,
        fingerprint
    )
    .execute(&mut **tx)
    .await?
    .rows_affected()
        == 1;
    if fresh {
        return in_its_day(key).map(|()| None);
    }
    same(store, tx, key, fingerprint).await.map(Some)
}

/// Keys are remembered for so long.
const REMEMBERED: Duration = Duration::from_hours(7 * 24);

/// A key that nobody remembers may be one that was forgotten, where it is as old as that: a key that is a `UUID` of
/// version 7, or ends in one, holds the time at which it was made (RFC 9562, 5.7).
pub fn in_its_day(key: &str) -> DbResult<()> {
    let made = key
        .get(key.len().saturating_sub(36)..)
        .and_then(|uuid| uuid.parse::<Uuid>().ok())
        .filter(|uuid| uuid.get_version() == Some(Version::SortRand))
        .and_then(|uuid| uuid.get_timestamp());
    let made = made.map(|t| UNIX_EPOCH + Duration::from_secs(t.to_unix().0));
    let past = made.is_some_and(|made| made.elapsed().is_ok_and(|age| age > REMEMBERED));
    if past { Err(DbError::KeyPast) } else { Ok(()) }
}

/// What the write of a key that is claimed already came to; an error where it was another write.
pub async fn same(store: &Store, tx: &mut Tx, key: &str, fingerprint: &str) -> DbResult<String> {
    let done = sqlx::query!(
        "select fingerprint, result from done_write where shop_id = $1 and write_key = $2",
        store.shop_id,
        key
    )
    .fetch_one(&mut **tx)
    .await?;
    if done.fingerprint == fingerprint {
        Ok(done.result)
    } else {
        Err(DbError::KeyUsed)
    }
}

/// Notes what a claimed write came to, for whoever sends it again.
pub async fn note_result(store: &Store, tx: &mut Tx, key: &str, result: &str) -> DbResult<()> {
    sqlx::query!(
        "update done_write set result = $3 where shop_id = $1 and write_key = $2",
        store.shop_id,
        key,
        result
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Forgets keys that no client still sends again.
pub async fn forget_old(store: &Store) -> sqlx::Result<()> {
    sqlx::query!("delete from done_write where at < now() - interval '7 days'")
        .execute(&store.pool)
        .await?;
    Ok(())
}
