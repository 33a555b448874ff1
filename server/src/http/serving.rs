//! For how long the threads that serve are kept by one address: everybody else waits for as long. Watched in debug
//! builds; the tests ask.

use std::collections::BTreeMap;
use std::future::Future;
use std::hint::black_box;
use std::pin::pin;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use rocket::futures::future::poll_fn;
use rocket::route::{Handler, Outcome};
use rocket::{Data, Request, Route};

use crate::processor::{worked, worked_heavily};

/// Longer than this no handler is to keep a thread that serves, on a machine that is not busy.
const LONGEST: Duration = Duration::from_millis(50);
/// So many additions are about as much in a debug build. How quick a processor is changes with what else is done on the
/// machine: what took long is compared with these, added at that moment.
const ADDITIONS: u64 = 4_000_000;

/// The second longest that each address has kept a thread, of those that kept one for longer than [`LONGEST`], as so many
/// times what the [`ADDITIONS`] took. What happens once may be a page of the program that was fetched.
static KEPT: Mutex<BTreeMap<String, [f64; 2]>> = Mutex::new(BTreeMap::new());

/// The routes, each watched where this is a debug build.
#[must_use]
pub fn watched(mut routes: Vec<Route>) -> Vec<Route> {
    if cfg!(debug_assertions) {
        for route in &mut routes {
            let address = format!("{} {}", route.method, route.uri);
            route.handler = Box::new(Watched {
                address,
                within: route.handler.clone(),
            });
        }
    }
    routes
}

/// For how long each address has kept a thread more than once, since the program began: in units of what it may.
#[must_use]
pub fn kept() -> BTreeMap<String, f64> {
    let kept = KEPT.lock().unwrap_or_else(PoisonError::into_inner);
    let twice = kept.iter().filter(|(_, [_, second])| *second > 0.0);
    twice
        .map(|(address, [_, second])| (address.clone(), *second))
        .collect()
}

fn note(address: &str, kept: Duration) {
    let from = worked();
    black_box((0..ADDITIONS).fold(0, |sum, n| black_box(n).wrapping_add(sum)));
    let times = kept.as_secs_f64() / worked().saturating_sub(from).as_secs_f64();
    let mut all = KEPT.lock().unwrap_or_else(PoisonError::into_inner);
    let [first, second] = all.entry(address.to_owned()).or_default();
    *second = second.max(times.min(*first));
    *first = first.max(times);
}

#[derive(Clone)]
struct Watched {
    address: String,
    within: Box<dyn Handler>,
}

#[rocket::async_trait]
impl Handler for Watched {
    async fn handle<'r>(&self, request: &'r Request<'_>, data: Data<'r>) -> Outcome<'r> {
        let mut within = pin!(self.within.handle(request, data));
        let mut longest = Duration::ZERO;
        let outcome = poll_fn(|context| {
            let (from, heavily) = (worked(), worked_heavily());
            let polled = within.as_mut().poll(context);
            let kept = worked()
                .saturating_sub(from)
                .saturating_sub(worked_heavily().saturating_sub(heavily));
            longest = longest.max(kept);
            polled
        })
        .await;
        if longest > LONGEST {
            note(&self.address, longest);
        }
        outcome
    }
}
