//! Answers that come line by line, one JSON object each, while a search goes on.

use std::sync::Arc;
use std::time::{Duration, Instant};

use rocket::futures::stream::Stream;
use rocket::http::ContentType;
use rocket::response::stream::TextStream;
use rocket::tokio;
use serde::Serialize;
use tokio::sync::mpsc::UnboundedSender;

use crate::http::problem::{ApiResult, Problem};
use crate::queries::searches::Searches;

/// How long is searched where nothing is said, in seconds.
const USUAL_SECONDS: f64 = 2.0;
/// The shortest search, in seconds.
pub(super) const LEAST_SECONDS: f64 = 0.1;
/// The longest search, in seconds.
const MOST_SECONDS: f64 = 120.0;
/// So often the screen is told how far it is.
const EVERY: Duration = Duration::from_millis(150);

/// A line of such an answer.
pub(super) trait Told: Serialize + Send + 'static {
    /// So many searches are before it.
    fn waiting(before: usize) -> Self;
    /// What went wrong.
    fn problem(problem: Problem) -> Self;
}

/// Who listens to a search, and until when it may go on.
pub(super) struct Listener<T> {
    tell: UnboundedSender<T>,
    until: Instant,
    next: Instant,
}

impl<T: Told> Listener<T> {
    /// Tells how far the search is, now and then; whether it may go on.
    pub fn go_on(&mut self, progress: impl FnOnce() -> T) -> bool {
        let now = Instant::now();
        if now >= self.next {
            self.next = now + EVERY;
            let _ = self.tell.send(progress());
        }
        // Nobody listens any more, or the time is over.
        now < self.until && !self.tell.is_closed()
    }
}

/// For how long is searched.
///
/// # Errors
/// Where that is too short or too long.
pub(super) fn seconds(asked: Option<f64>) -> ApiResult<f64> {
    let seconds = asked.unwrap_or(USUAL_SECONDS);
    if (LEAST_SECONDS..=MOST_SECONDS).contains(&seconds) {
        Ok(seconds)
    } else {
        Err(Problem::field(
            "seconds",
            format!("A search takes from {LEAST_SECONDS} to {MOST_SECONDS} seconds."),
        ))
    }
}

/// A search as it is told: it waits for its turn, and a client that goes away stops it.
pub(super) fn streamed<T, W>(
    searches: &Arc<Searches>,
    seconds: f64,
    work: W,
) -> (
    ContentType,
    TextStream<impl Stream<Item = String> + use<T, W>>,
)
where
    T: Told,
    W: FnOnce(&mut Listener<T>) -> T + Send + 'static,
{
    let (tell, mut told) = tokio::sync::mpsc::unbounded_channel();
    let searches = Arc::clone(searches);
    let search = tokio::spawn(async move {
        let waits = |before| {
            let _ = tell.send(T::waiting(before));
        };
        let turn = tokio::select! {
            turn = searches.turn(waits) => turn,
            () = tell.closed() => return Ok(()),
        };
        tokio::task::spawn_blocking(move || {
            let now = Instant::now();
            let mut listener = Listener {
                tell,
                until: now + Duration::from_secs_f64(seconds),
                next: now + EVERY,
            };
            let found = work(&mut listener);
            let _ = listener.tell.send(found);
            drop(turn);
        })
        .await
    });
    let lines = TextStream! {
        while let Some(line) = told.recv().await {
            yield serde_json::to_string(&line).unwrap_or_default() + "\n";
        }
        if let Err(gone) = search.await.and_then(|done| done) {
            let problem = T::problem(Problem::server(gone));
            yield serde_json::to_string(&problem).unwrap_or_default() + "\n";
        }
    };
    (ContentType::new("application", "x-ndjson"), lines)
}
