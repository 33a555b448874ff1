//! Digital gauges that speak: what they say is relayed to the screens as it comes, the newest first
//! and only; and the lines of a gauge on a screen's own serial port are read by the same reader.

use std::collections::HashMap;
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use anvil_arithmetic::digital_gauge::{Heard, Lines, Rests};
use anvil_arithmetic::units::length::Length;
use rocket::futures::{SinkExt, StreamExt};
use rocket::tokio::io::AsyncReadExt;
use rocket::tokio::net::TcpStream;
use rocket::tokio::sync::watch;
use rocket::tokio::time::{sleep, timeout};
use rocket::{State, get, tokio};
use rocket_ws::{Channel, Message, WebSocket};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::{Store, gauge};
use crate::http::problem::{ApiResult, Problem};

/// What is known of a gauge that speaks.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct Live {
    /// Whether it can be heard.
    pub state: LiveState,
    /// Its newest reading in nanometres, where it speaks.
    pub nm: Option<i64>,
    /// How many readings it has given since it was plugged in.
    pub readings: u64,
    /// How many of its lines were no reading.
    pub garbled: u64,
    /// Why the last of those was none.
    pub why: Option<String>,
}

/// What a screen is told: the gauge, and what this screen holds of it.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct Told {
    /// The gauge.
    #[serde(flatten)]
    pub live: Live,
    /// It rests now.
    pub resting: bool,
    /// The lowest rest since the holds were cleared, in nanometres.
    pub low_nm: Option<Length>,
    /// The highest rest.
    pub high_nm: Option<Length>,
    /// From the lowest to the highest.
    pub travel_nm: Option<Length>,
}

/// What one screen holds.
struct Held {
    rests: Rests,
    since: Instant,
}

impl Held {
    fn new() -> Self {
        Self {
            rests: Rests::default(),
            since: Instant::now(),
        }
    }

    fn tell(&mut self, live: Live) -> Told {
        if let Some(nm) = live.nm.filter(|_| live.state == LiveState::Speaking) {
            let at = u64::try_from(self.since.elapsed().as_millis()).unwrap_or(u64::MAX);
            self.rests.feed(at, Length::from_nm(nm));
        }
        Told {
            resting: self.rests.resting() && live.state == LiveState::Speaking,
            low_nm: self.rests.low(),
            high_nm: self.rests.high(),
            travel_nm: self.rests.travel(),
            live,
        }
    }
}

/// What a screen says to have its holds cleared.
const CLEAR: &str = "clear";

/// Whether a gauge can be heard.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LiveState {
    /// It cannot be reached; it is tried again and again.
    #[default]
    Unplugged,
    /// It is there, and says nothing.
    Silent,
    /// It speaks.
    Speaking,
}

impl Live {
    fn hear(&mut self, heard: Heard) {
        self.readings += heard.readings;
        self.garbled += heard.garbled;
        if heard.why.is_some() {
            self.why = heard.why;
        }
        if let Some(newest) = heard.newest {
            self.state = LiveState::Speaking;
            self.nm = Some(newest.nm());
        }
    }
}

/// The gauges listened to now: one connection each, however many screens look on.
#[derive(Clone, Default)]
pub struct Hub(Arc<Mutex<HashMap<String, watch::Sender<Live>>>>);

/// A gauge that says nothing for longer is silent.
const SILENT: Duration = Duration::from_millis(1500);
/// How long until an unplugged gauge is tried again.
const AGAIN: Duration = Duration::from_millis(500);
/// A screen is told no oftener than this: faster than it draws helps nobody.
const PACE: Duration = Duration::from_millis(8);

impl Hub {
    /// What a gauge says from now on.
    fn listen(&self, at: &str) -> ApiResult<watch::Receiver<Live>> {
        let mut gauges = self
            .0
            .lock()
            .map_err(|_| Problem::server("a listener to a gauge failed"))?;
        if let Some(sender) = gauges.get(at) {
            let receiver = sender.subscribe();
            // With nobody else listening its task has ended, or is about to.
            if sender.receiver_count() > 1 {
                return Ok(receiver);
            }
        }
        let (sender, receiver) = watch::channel(Live::default());
        gauges.insert(at.to_owned(), sender.clone());
        tokio::spawn(follow(at.to_owned(), sender));
        Ok(receiver)
    }
}

/// Listens to a gauge until no screen looks on any more.
async fn follow(at: String, tell: watch::Sender<Live>) {
    loop {
        if let Ok(Ok(stream)) = timeout(SILENT, TcpStream::connect(&at)).await
            && !hear(stream, &tell).await
        {
            return;
        }
        tell.send_if_modified(|live| {
            let gone = Live {
                state: LiveState::Unplugged,
                nm: None,
                ..live.clone()
            };
            let changed = *live != gone;
            *live = gone;
            changed
        });
        tokio::select! {
            () = tell.closed() => return,
            () = sleep(AGAIN) => {}
        }
    }
}

/// Hears a gauge out. `false` where nobody listens any more.
async fn hear(mut stream: TcpStream, tell: &watch::Sender<Live>) -> bool {
    let mut lines = Lines::default();
    let mut bytes = vec![0; 4096];
    tell.send_replace(Live {
        state: LiveState::Silent,
        ..Live::default()
    });
    loop {
        tokio::select! {
            () = tell.closed() => return false,
            read = stream.read(&mut bytes) => match read {
                Ok(0) | Err(_) => return true,
                Ok(count) => {
                    let heard = lines.hear(&bytes[..count]);
                    if heard != Heard::default() {
                        tell.send_modify(|live| live.hear(heard));
                    }
                }
            },
            () = sleep(SILENT) => {
                tell.send_modify(|live| live.state = LiveState::Silent);
            }
        }
    }
}

/// A gauge of the register that speaks, as a stream of [`Told`] in JSON. The screen may say
/// `clear` to have its holds cleared.
#[get("/live/<key>")]
pub async fn gauge_live(
    ws: WebSocket,
    store: &State<Store>,
    hub: &State<Hub>,
    key: &str,
) -> ApiResult<Channel<'static>> {
    let row = gauge::one(store, key).await?;
    if row.live_at.is_empty() {
        return Err(Problem::conflict(
            "not-live",
            format!(
                "{} is read by eye: the register gives no place where it speaks.",
                row.name
            ),
        ));
    }
    let mut live = hub.listen(&row.live_at)?;
    Ok(ws.channel(move |mut screen| {
        Box::pin(async move {
            let mut held = Held::new();
            loop {
                let now = live.borrow_and_update().clone();
                screen.send(Message::Text(json(&held.tell(now)))).await?;
                sleep(PACE).await;
                tokio::select! {
                    changed = live.changed() => if changed.is_err() { break },
                    said = screen.next() => match said {
                        None | Some(Err(_) | Ok(Message::Close(_))) => break,
                        Some(Ok(Message::Text(text))) if text == CLEAR => held.rests.clear(),
                        Some(Ok(_)) => {}
                    },
                }
            }
            Ok(())
        })
    }))
}

/// Reads what a screen hears on its own serial port: bytes in as they come, [`Told`] in JSON out;
/// the text `clear` alone clears the holds.
#[get("/live-lines")]
pub fn lines_live(ws: WebSocket) -> Channel<'static> {
    ws.channel(move |mut screen| {
        Box::pin(async move {
            let mut lines = Lines::default();
            let mut live = Live::default();
            let mut held = Held::new();
            while let Some(Ok(said)) = screen.next().await {
                let heard = match said {
                    Message::Text(text) if text == CLEAR => {
                        held.rests.clear();
                        continue;
                    }
                    Message::Text(text) => lines.hear(text.as_bytes()),
                    Message::Binary(bytes) => lines.hear(&bytes),
                    Message::Close(_) => break,
                    _ => continue,
                };
                if heard != Heard::default() {
                    live.hear(heard);
                    screen
                        .send(Message::Text(json(&held.tell(live.clone()))))
                        .await?;
                }
            }
            Ok(())
        })
    })
}

fn json(told: &Told) -> String {
    // Plain values always write out; were they not to, the screen would be told nothing new.
    serde_json::to_string(told).unwrap_or_default()
}
