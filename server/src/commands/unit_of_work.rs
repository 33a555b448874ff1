//! One write, one transaction, done once whatever is sent again.

use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::db::{Store, Tx, shop, writes};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};

/// Who writes what, under which key.
pub struct Write;

impl Write {
    /// Does a write once: claims its key, makes sure of who, does it, commits, and answers what came of it, or what
    /// came of it the first time.
    ///
    /// # Errors
    /// Where the key was used for another write, nobody of the shop has these initials, or `act` fails; then nothing
    /// is changed.
    pub async fn once<R, T, F>(
        store: &Store,
        key: &IdempotencyKey,
        who: &str,
        (act, request): (&str, &R),
        work: impl FnOnce(Tx) -> F,
    ) -> ApiResult<T>
    where
        R: Serialize,
        T: Serialize + DeserializeOwned,
        F: Future<Output = ApiResult<(Tx, T)>>,
    {
        let mut tx = store.begin().await?;
        let fingerprint = fingerprint(act, who, request)?;
        if let Some(done) = writes::claim(store, &mut tx, &key.0, &fingerprint).await? {
            return serde_json::from_str(&done).map_err(Problem::server);
        }
        shop::known(store, &mut tx, who).await?;
        let (mut tx, result) = work(tx).await?;
        let said = serde_json::to_string(&result).map_err(Problem::server)?;
        writes::note_result(store, &mut tx, &key.0, &said).await?;
        store.commit(tx).await?;
        Ok(result)
    }
}

/// What tells a write from every other under the same key: as JSON, so that renaming a type changes nothing.
///
/// # Errors
/// Never for plain requests.
pub fn fingerprint<R: Serialize>(act: &str, who: &str, request: &R) -> ApiResult<String> {
    #[derive(Serialize)]
    struct Of<'a, R> {
        act: &'a str,
        who: &'a str,
        request: &'a R,
    }
    serde_json::to_string(&Of { act, who, request }).map_err(Problem::server)
}
