//! What is worked beside the threads that serve, and how much the processor worked on each.

use std::cell::Cell;
use std::time::Duration;

use rustix::time::{ClockId, clock_gettime};
use tokio::runtime::{Handle, RuntimeFlavor};

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
