//! The writes on a job's pictures.

use std::sync::atomic::{AtomicUsize, Ordering};

use anvil_pictures::{Kept, Unkept};
use anvil_rules::job::parts::{PictureOf, is_gone, may_keep_another};
use anvil_rules::texts::shown;
use chrono::Utc;
use sha2::{Digest, Sha256};
use tokio::sync::Semaphore;

use super::Write;
use crate::db::error::DbResult;
use crate::db::picture::{NewPicture, PictureRow};
use crate::db::{Store, job, locks, picture, sheet};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};

const LONGEST_SAID: usize = 200;

/// A picture as it is sent.
#[derive(Debug)]
pub struct PictureIn<'a> {
    /// JPEG, PNG or WebP.
    pub bytes: Vec<u8>,
    pub part: &'a str,
    pub step: &'a str,
    pub said: &'a str,
}

/// As many pictures are read at once: each takes some hundred megabytes while it is.
static TURNS: Semaphore = Semaphore::const_new(2);
/// As many wait for their turn; who comes then is asked to come again.
const MOST_WAITING: usize = 24;
static WAITING: AtomicUsize = AtomicUsize::new(0);

/// A place among those who wait or have their turn, given back however it ends.
struct Place;

impl Place {
    fn taken() -> Option<Self> {
        let place = Self;
        (WAITING.fetch_add(1, Ordering::Relaxed) < MOST_WAITING).then_some(place)
    }
}

impl Drop for Place {
    fn drop(&mut self) {
        WAITING.fetch_sub(1, Ordering::Relaxed);
    }
}

/// The picture as it is kept, read beside the threads that serve when its turn has come.
async fn kept_in_turn(bytes: Vec<u8>) -> ApiResult<Kept> {
    let Some(_place) = Place::taken() else {
        return Err(Problem::later(
            "Many pictures are being kept just now: send this one again in a moment.",
        ));
    };
    let turn = TURNS.acquire().await.map_err(Problem::server)?;
    let read = tokio::task::spawn_blocking(move || {
        // The turn ends with the reading, also where nobody waits for it any more.
        let _turn = turn;
        anvil_pictures::kept(&bytes)
    });
    read.await.map_err(Problem::server)?.map_err(|e| match e {
        Unkept::NoPicture(_) | Unkept::TooLarge(..) => Problem::field("picture", e.to_string()),
        Unkept::Unwritten(_) => Problem::server(e),
    })
}

/// A side in pixels, far below what its column holds.
fn side(of: u32) -> i32 {
    i32::try_from(of).unwrap_or(i32::MAX)
}

/// Keeps a picture of a job's box, and returns its number.
///
/// # Errors
/// Where there is no such job, part or step, it is no picture, or there are too many.
pub async fn add(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    new: PictureIn<'_>,
    who: &str,
) -> ApiResult<i64> {
    let said = shown(new.said);
    if said.chars().count() > LONGEST_SAID {
        return Err(Problem::field(
            "said",
            format!("This may have up to {LONGEST_SAID} characters: shorten it."),
        ));
    }
    let print = hex::encode(Sha256::digest(&new.bytes));
    let kept = kept_in_turn(new.bytes).await?;
    let request = (job_no, print, new.part, new.step, said);
    let kept = &kept;
    Write::once(
        store,
        key,
        who,
        ("picture", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let job = job::job(store, &mut *tx, job_no).await?;
            let on = (job.sheet_key.as_str(), job.revision, job.variant.as_str());
            let sheet = sheet::built(store, &mut *tx, on).await?;
            PictureOf::read(&sheet, new.part, new.step)?;
            let there = picture::list(store, &mut *tx, job_no).await?;
            may_keep_another(there.iter().filter(|p| p.struck_by.is_none()).count())?;
            let new = NewPicture {
                part: new.part,
                step: new.step,
                said,
                width: side(kept.width),
                height: side(kept.height),
                body: &kept.body,
                small: &kept.small,
            };
            let picture_no = picture::add(store, &mut tx, job_no, &new, who).await?;
            Ok((tx, picture_no))
        },
    )
    .await
}

/// So many pictures go at a time.
const MOST_LET_GO: i64 = 500;

/// Lets pictures go that have been out for long enough.
///
/// # Errors
/// Where the database does not answer.
pub async fn let_go(store: &Store) -> DbResult<()> {
    let now = Utc::now();
    for (job_no, picture_no, since) in picture::out(store, MOST_LET_GO).await? {
        if is_gone(since, now) {
            let mut tx = store.begin().await?;
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            picture::let_go(store, &mut tx, (job_no, picture_no), since).await?;
            store.commit(tx).await?;
        }
    }
    Ok(())
}

/// Takes a picture out of what is shown, or puts it back.
///
/// # Errors
/// Where there is no such picture.
pub async fn mark(
    store: &Store,
    key: &IdempotencyKey,
    (job_no, picture_no): (i32, i64),
    struck: bool,
    who: &str,
) -> ApiResult<()> {
    let request = (job_no, picture_no, struck);
    Write::once(
        store,
        key,
        who,
        ("mark_picture", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let there = picture::list(store, &mut *tx, job_no).await?;
            if there.iter().all(|p| p.picture_no != picture_no) {
                return Err(Problem::missing("There is no such picture of this job."));
            }
            if !struck {
                let shown = |p: &&PictureRow| p.struck_by.is_none() && p.picture_no != picture_no;
                may_keep_another(there.iter().filter(shown).count())?;
            }
            picture::mark(store, &mut tx, (job_no, picture_no), struck, who).await?;
            Ok((tx, ()))
        },
    )
    .await
}
