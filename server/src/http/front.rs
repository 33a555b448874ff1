//! The open port: takes connections, and hands on to the server within what has come in good time.
//!
//! Rocket waits for a request's head, and for the first of its body, as long as whoever sends it likes. Here each has its
//! time; what is slower is told so and closed, and costs nothing but its place meanwhile.

use std::convert::Infallible;
use std::future::poll_fn;
use std::net::SocketAddr;
use std::pin::Pin;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, PoisonError};
use std::task::{Context, Poll};
use std::time::Duration;

use bytes::Bytes;
use http_body_util::combinators::BoxBody;
use http_body_util::{BodyExt, Full};
use hyper::body::{Body, Frame, Incoming};
use hyper::client::conn::http1::SendRequest;
use hyper::header::UPGRADE;
use hyper::service::service_fn;
use hyper::{Method, Request, Response, StatusCode};
use hyper_util::rt::{TokioIo, TokioTimer};
use rocket::figment::Figment;
use thiserror::Error;
use tokio::io::copy_bidirectional;
use tokio::net::{TcpListener, TcpStream};
use tokio::sync::Mutex;
use tokio::time::{Instant, Sleep, sleep_until, timeout_at};

use super::problem::Problem;

/// How long a request may be on its way.
#[derive(Clone, Copy, Debug)]
pub struct Patience {
    /// For its head, from the moment at which the connection stands open for it.
    pub head: Duration,
    /// For what comes after that; a second more for each MiB of it.
    pub body: Duration,
}

impl Patience {
    /// As the settings have it (`ROCKET_HEAD_SECONDS`, `ROCKET_BODY_SECONDS`), or half a minute each.
    #[must_use]
    pub fn of(figment: &Figment) -> Self {
        let seconds = |key| Duration::from_secs(figment.extract_inner(key).unwrap_or(30));
        Self {
            head: seconds("head_seconds"),
            body: seconds("body_seconds"),
        }
    }
}

/// Serves a port for as long as the program runs; `within` is where the server listens.
pub async fn serve(listener: TcpListener, within: SocketAddr, patience: Patience) {
    loop {
        match listener.accept().await {
            Ok((stream, _)) => {
                tokio::spawn(connection(stream, within, patience));
            }
            Err(error) => {
                // Such as too many open files: those that are open may be closed meanwhile.
                tracing::warn!(%error, "a connection was not taken");
                tokio::time::sleep(Duration::from_millis(100)).await;
            }
        }
    }
}

async fn connection(stream: TcpStream, within: SocketAddr, patience: Patience) {
    // An answer goes out as it comes; where that cannot be said, it goes out a little later.
    let _ = stream.set_nodelay(true);
    let inner = Arc::new(Inner {
        at: within,
        open: Mutex::default(),
    });
    let service = service_fn(move |request| {
        let inner = Arc::clone(&inner);
        // On its own: what was sent is done, though whoever sent it goes to another page meanwhile.
        let handing = tokio::spawn(async move { hand_on(request, &inner, patience.body).await });
        async move {
            let answer = handing.await;
            Ok::<_, Infallible>(answer.unwrap_or_else(|fault| problem(&Fault::Task(fault), 0)))
        }
    });
    let served = hyper::server::conn::http1::Builder::new()
        .timer(TokioTimer::new())
        .header_read_timeout(patience.head)
        .serve_connection(TokioIo::new(stream), service)
        .with_upgrades()
        .await;
    if let Err(error) = served {
        tracing::debug!(%error, "a connection ended");
    }
}

/// The connection to the server within that belongs to one from outside.
struct Inner {
    at: SocketAddr,
    open: Mutex<Option<SendRequest<Timely>>>,
}

impl Inner {
    async fn send(&self, request: Request<Timely>) -> Result<Response<Incoming>, Fault> {
        let mut open = self.open.lock().await;
        if let Some(sender) = open.as_mut()
            && sender.ready().await.is_ok()
        {
            return Ok(sender.send_request(request).await?);
        }
        let stream = TcpStream::connect(self.at).await?;
        stream.set_nodelay(true)?;
        let (mut sender, connection) =
            hyper::client::conn::http1::handshake(TokioIo::new(stream)).await?;
        tokio::spawn(connection.with_upgrades());
        let answer = sender.send_request(request).await?;
        *open = Some(sender);
        Ok(answer)
    }
}

#[derive(Debug, Error)]
enum Fault {
    #[error(transparent)]
    Http(#[from] hyper::Error),
    #[error(transparent)]
    Connection(#[from] std::io::Error),
    #[error(transparent)]
    Task(#[from] tokio::task::JoinError),
}

/// The methods that Rocket can name (RFC 9110, 9.3, and RFC 5789).
const UNDERSTOOD: [Method; 9] = [
    Method::GET,
    Method::HEAD,
    Method::POST,
    Method::PUT,
    Method::DELETE,
    Method::CONNECT,
    Method::OPTIONS,
    Method::TRACE,
    Method::PATCH,
];

type Answer = Response<BoxBody<Bytes, hyper::Error>>;

async fn hand_on(mut request: Request<Incoming>, inner: &Inner, patience: Duration) -> Answer {
    if !UNDERSTOOD.contains(request.method()) {
        // Rocket cannot name others. No route takes this one, and what it answers is as true of the other.
        *request.method_mut() = Method::TRACE;
    }
    let upgrade = request
        .headers()
        .contains_key(UPGRADE)
        .then(|| hyper::upgrade::on(&mut request));
    let until = Instant::now() + patience;
    let sent = Sent::default();
    let request = request.map(|body| {
        sent.begins(body);
        Timely {
            body: sent.clone(),
            at_first: until,
            until: Box::pin(sleep_until(until)),
        }
    });
    let answered = inner.send(request).await;
    // Whoever is still sending hears no answer before they are done.
    let _ = timeout_at(until, sent.rest()).await;
    match answered {
        Ok(mut answer) => {
            if let Some(outer) = upgrade
                && answer.status() == StatusCode::SWITCHING_PROTOCOLS
            {
                let within = hyper::upgrade::on(&mut answer);
                tokio::spawn(async move {
                    if let (Ok(outer), Ok(within)) = tokio::join!(outer, within) {
                        let (mut outer, mut within) = (TokioIo::new(outer), TokioIo::new(within));
                        // Either end may go without a word.
                        let _ = copy_bidirectional(&mut outer, &mut within).await;
                    }
                });
            }
            answer.map(BodyExt::boxed)
        }
        Err(fault) => problem(&fault, sent.length()),
    }
}

/// What is said where the server within gave no answer to what had sent so many bytes.
fn problem(fault: &Fault, sent: u64) -> Answer {
    let problem = match fault {
        Fault::Http(error) if is_late(error) => Problem::too_slow(),
        // What was sent is no request: a chunk without a size, an end that never came.
        Fault::Http(error) if error.is_user() => Problem::no_request(error),
        // It is closed on what is longer than what it takes.
        Fault::Http(_) if sent > TAKEN => Problem::too_large(),
        Fault::Http(_) | Fault::Connection(_) => {
            tracing::warn!(%fault, "the server within gave no answer");
            Problem::later(
                "Dry Anvil is closing, or is only just being started. Send this again in a moment: what was done already is not done twice.",
            )
        }
        Fault::Task(_) => Problem::server(fault),
    };
    let body = serde_json::to_string(&problem).unwrap_or_default();
    let mut answer = Response::new(Full::from(body).map_err(|never| match never {}).boxed());
    *answer.status_mut() = StatusCode::from_u16(problem.status).unwrap_or_default();
    let headers = answer.headers_mut();
    let kind = hyper::header::HeaderValue::from_static("application/problem+json");
    headers.insert(hyper::header::CONTENT_TYPE, kind);
    // What is still on its way is not waited for.
    let close = hyper::header::HeaderValue::from_static("close");
    headers.insert(hyper::header::CONNECTION, close);
    if answer.status() == StatusCode::SERVICE_UNAVAILABLE {
        let soon = hyper::header::HeaderValue::from_static("2");
        answer
            .headers_mut()
            .insert(hyper::header::RETRY_AFTER, soon);
    }
    answer
}

/// What every address takes, in bytes; some take more.
const TAKEN: u64 = 2 << 20;
/// So much more is read of what nobody takes, for the answer to be heard.
const MOST_UNHEARD: u64 = 64 << 20;

/// A request's body as it comes in, and how much of it has come.
#[derive(Clone, Default)]
struct Sent(Arc<SentBody>);

#[derive(Default)]
struct SentBody {
    body: std::sync::Mutex<Option<Incoming>>,
    length: AtomicU64,
}

impl Sent {
    fn begins(&self, body: Incoming) {
        *self.body() = Some(body);
    }

    fn body(&self) -> std::sync::MutexGuard<'_, Option<Incoming>> {
        self.0.body.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn length(&self) -> u64 {
        self.0.length.load(Ordering::Relaxed)
    }

    fn poll_frame(
        &self,
        context: &mut Context<'_>,
    ) -> Poll<Option<Result<Frame<Bytes>, hyper::Error>>> {
        let mut body = self.body();
        let Some(body) = body.as_mut() else {
            return Poll::Ready(None);
        };
        let frame = Pin::new(body).poll_frame(context);
        if let Poll::Ready(Some(Ok(frame))) = &frame {
            let more = frame.data_ref().map_or(0, Bytes::len);
            self.0.length.fetch_add(more as u64, Ordering::Relaxed);
        }
        frame
    }

    /// Reads what is still to come, for nobody.
    async fn rest(&self) {
        while self.length() < MOST_UNHEARD
            && let Some(Ok(_)) = poll_fn(|context| self.poll_frame(context)).await
        {}
    }
}

/// A body that ends in a fault where it has not come by then.
struct Timely {
    body: Sent,
    at_first: Instant,
    until: Pin<Box<Sleep>>,
}

/// A body was too long on its way.
#[derive(Debug, Error)]
#[error("the body took too long on its way")]
struct Late;

fn is_late(error: &hyper::Error) -> bool {
    let mut cause = std::error::Error::source(error);
    while let Some(error) = cause {
        if error.is::<Late>() {
            return true;
        }
        cause = error.source();
    }
    false
}

impl Body for Timely {
    type Data = Bytes;
    type Error = Box<dyn std::error::Error + Send + Sync>;

    fn poll_frame(
        mut self: Pin<&mut Self>,
        context: &mut Context<'_>,
    ) -> Poll<Option<Result<Frame<Bytes>, Self::Error>>> {
        match self.body.poll_frame(context) {
            Poll::Pending => self
                .until
                .as_mut()
                .poll(context)
                .map(|()| Some(Err(Late.into()))),
            Poll::Ready(frame) => {
                // What is large may take longer, as long as it goes on coming.
                let longer = Duration::from_secs(self.body.length() >> 20);
                let until = self.at_first + longer;
                self.until.as_mut().reset(until);
                Poll::Ready(frame.map(|frame| frame.map_err(Into::into)))
            }
        }
    }

    fn is_end_stream(&self) -> bool {
        self.body.body().as_ref().is_none_or(Body::is_end_stream)
    }

    fn size_hint(&self) -> hyper::body::SizeHint {
        self.body
            .body()
            .as_ref()
            .map_or_else(Default::default, Body::size_hint)
    }
}
