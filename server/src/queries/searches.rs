//! Work that may take long: beside the threads that serve, so much at once, and no longer than somebody listens.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use tokio::sync::{OwnedSemaphorePermit, Semaphore};

/// Searches take turns: all at once would be no quicker, and leave nobody a processor.
#[derive(Debug)]
pub struct Searches {
    turns: Arc<Semaphore>,
    /// How many run or wait.
    under_way: Arc<AtomicUsize>,
}

/// A search's turn; the next one's begins when it is dropped.
#[derive(Debug)]
pub struct Turn {
    _permit: OwnedSemaphorePermit,
    _place: Place,
}

/// A place among those that run or wait.
#[derive(Debug)]
struct Place(Arc<AtomicUsize>);

impl Drop for Place {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::Relaxed);
    }
}

impl Default for Searches {
    /// Half of the processors search, and one at the least: the others serve.
    fn default() -> Self {
        let processors = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
        Self {
            turns: Arc::new(Semaphore::new((processors / 2).max(1))),
            under_way: Arc::default(),
        }
    }
}

impl Searches {
    /// Waits for a turn; `told` is called with how many are before it, where it has to wait.
    pub async fn turn(&self, told: impl FnOnce(usize)) -> Turn {
        let before = self.under_way.fetch_add(1, Ordering::Relaxed);
        let place = Place(Arc::clone(&self.under_way));
        let turns = || Arc::clone(&self.turns);
        let permit = if let Ok(permit) = turns().try_acquire_owned() {
            permit
        } else {
            told(before);
            // Nobody closes it.
            match turns().acquire_owned().await {
                Ok(permit) => permit,
                Err(closed) => unreachable!("{closed}"),
            }
        };
        Turn {
            _permit: permit,
            _place: place,
        }
    }
}
