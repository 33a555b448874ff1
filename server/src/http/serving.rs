//! For how long the threads that serve are kept by one address: everybody else waits for as long. Watched in debug
//! builds; the tests ask.

use std::collections::BTreeMap;
use std::future::Future;
use std::pin::pin;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use rocket::futures::future::poll_fn;
use rocket::route::{Handler, Outcome};
use rocket::{Data, Request, Route};

use crate::processor::{worked, worked_heavily};

/// Longer than this no handler is to keep a thread that serves.
pub const LONGEST: Duration = Duration::from_millis(50);

static KEPT: Mutex<BTreeMap<String, Duration>> = Mutex::new(BTreeMap::new());

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

/// For how long each address has kept a thread at most, since the program began.
#[must_use]
pub fn kept() -> BTreeMap<String, Duration> {
    KEPT.lock().unwrap_or_else(PoisonError::into_inner).clone()
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
        poll_fn(|context| {
            let (from, heavily) = (worked(), worked_heavily());
            let polled = within.as_mut().poll(context);
            let kept = worked()
                .saturating_sub(from)
                .saturating_sub(worked_heavily().saturating_sub(heavily));
            let mut all = KEPT.lock().unwrap_or_else(PoisonError::into_inner);
            let longest = all.entry(self.address.clone()).or_default();
            *longest = kept.max(*longest);
            polled
        })
        .await
    }
}
