//! Work that may take long: beside the threads that serve, so much at once, and no longer than somebody listens.

use std::cell::Cell;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use rustix::time::{ClockId, clock_gettime};
use tokio::runtime::{Handle, RuntimeFlavor};
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

thread_local! {
    static HEAVILY: Cell<Duration> = const { Cell::new(Duration::ZERO) };
}

/// The processor's time for this thread so far: what others take does not count.
#[must_use]
pub fn worked() -> Duration {
    let time = clock_gettime(ClockId::ThreadCPUTime);
    let part = |of: i64| u64::try_from(of).unwrap_or_default();
    Duration::from_secs(part(time.tv_sec)) + Duration::from_nanos(part(time.tv_nsec))
}

/// As much of it as went into what was done [`heavily`].
#[must_use]
pub fn worked_heavily() -> Duration {
    HEAVILY.get()
}

/// Does a piece of work that may take a tenth of a second and more, while others go on to be served.
pub fn heavily<T>(work: impl FnOnce() -> T) -> T {
    // A thread that serves alone has nobody to hand the others to.
    let many =
        Handle::try_current().is_ok_and(|h| h.runtime_flavor() == RuntimeFlavor::MultiThread);
    let from = worked();
    let done = if many {
        tokio::task::block_in_place(work)
    } else {
        work()
    };
    HEAVILY.set(HEAVILY.get() + worked().saturating_sub(from));
    done
}

/// The same where it `may` take as long.
pub fn heavily_if<T>(may: bool, work: impl FnOnce() -> T) -> T {
    if may { heavily(work) } else { work() }
}
