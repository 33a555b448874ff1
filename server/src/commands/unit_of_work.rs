//! One write, one transaction, done once whatever is sent again.

use std::time::Duration;

use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::db::{Store, Tx, shop, writes};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{Again, ApiResult, Problem};

/// Who writes what, under which key.
pub struct Write;

impl Write {
    /// Does a write once: claims its key, makes sure of who, does it, commits, and answers what came of it, or what
    /// came of it the first time. Where it lost a race it begins again.
    ///
    /// # Errors
    /// Where the key was used for another write, nobody of the shop has these initials, or `work` fails; then nothing
    /// is changed.
    pub async fn once<R, T, F>(
        store: &Store,
        key: &IdempotencyKey,
        who: &str,
        (act, request): (&str, &R),
        work: impl Fn(Tx) -> F,
    ) -> ApiResult<T>
    where
        R: Serialize,
        T: Serialize + DeserializeOwned,
        F: Future<Output = ApiResult<(Tx, T)>>,
    {
        let fingerprint = fingerprint(act, who, request)?;
        or_again(|| async {
            let mut tx = store.begin().await?;
            if let Some(done) = writes::claim(store, &mut tx, &key.0, &fingerprint).await? {
                return serde_json::from_str(&done).map_err(Problem::server);
            }
            shop::known(store, &mut tx, who).await?;
            let (mut tx, result) = work(tx).await?;
            let said = serde_json::to_string(&result).map_err(Problem::server)?;
            writes::note_result(store, &mut tx, &key.0, &said).await?;
            store.commit(tx).await?;
            Ok(result)
        })
        .await
    }
}

/// A write that lost so many races is given up.
const MOST_LOST: u32 = 3;
/// Before the next try: as long as a write takes, and longer each time, so that the other is done.
const PAUSE: Duration = Duration::from_millis(8);

/// Does a write, and begins it again where it lost a race, or once where it waited for as long as anybody waits.
///
/// # Errors
/// As of the write.
pub async fn or_again<T, F>(write: impl Fn() -> F) -> ApiResult<T>
where
    F: Future<Output = ApiResult<T>>,
{
    let (mut lost, mut waited) = (0, 0);
    loop {
        let problem = match Box::pin(write()).await {
            Err(problem) => problem,
            done => return done,
        };
        let (count, most) = match problem.again {
            Again::Never => return Err(problem),
            Again::AtOnce => (&mut lost, MOST_LOST),
            Again::Once => (&mut waited, 1),
        };
        if *count == most {
            return Err(problem);
        }
        *count += 1;
        tokio::time::sleep(PAUSE * *count).await;
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
