//! The one error type. Every error answers `application/problem+json` (RFC 9457).

use std::sync::atomic::{AtomicU64, Ordering};

use anvil_arithmetic::choose::ChooseError;
use anvil_arithmetic::refusal::{Nature, Refusal};
use anvil_arithmetic::stock::csv;
use anvil_rules::sheet::{self, chart};
use rocket::Route;
use rocket::http::{ContentType, Header, Status};
use rocket::request::Request;
use rocket::response::{self, Responder};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db;
use crate::db::error::DbError;

/// What went wrong, as it is sent.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Problem {
    /// A stable name of the kind of problem.
    #[serde(rename = "type")]
    pub kind: &'static str,
    /// A sentence for a person: what is wrong, and what would be right.
    pub title: String,
    /// The HTTP status.
    pub status: u16,
    /// The field at fault, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<Box<str>>,
    /// All faults of a file, where one was sent.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub faults: Vec<PlacedFault>,
    /// The number this problem goes by in the server's log, where the server is at fault.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub incident: Option<Box<str>>,
    /// Whether the same write, begun again, may go through.
    #[serde(skip)]
    pub again: Again,
    /// What is wrong with records that this program never writes so: for whoever has just put them in.
    #[serde(skip)]
    pub unreadable: Option<Box<str>>,
}

/// Whether a write that failed is begun again.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Again {
    #[default]
    Never,
    /// It lost a race.
    AtOnce,
    /// It waited for somebody for as long as anybody waits.
    Once,
}

/// One fault of a file.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlacedFault {
    /// Where in the file.
    pub place: String,
    /// What is wrong there, and what would be right.
    pub message: String,
}

/// What handlers return.
pub type ApiResult<T> = Result<T, Problem>;

impl Problem {
    /// A problem of a kind and status.
    pub fn new(status: Status, kind: &'static str, title: impl Into<String>) -> Self {
        Self {
            kind,
            title: title.into(),
            status: status.code,
            field: None,
            faults: Vec::new(),
            incident: None,
            again: Again::Never,
            unreadable: None,
        }
    }

    /// A field that holds something it cannot.
    pub fn field(field: &str, title: impl std::fmt::Display) -> Self {
        Self {
            field: Some(field.into()),
            ..Self::new(Status::UnprocessableEntity, "bad-field", title.to_string())
        }
    }

    /// Something that is not there.
    pub fn missing(title: impl Into<String>) -> Self {
        Self::new(Status::NotFound, "not-found", title)
    }

    /// Something that cannot be done as things stand.
    pub fn conflict(kind: &'static str, title: impl Into<String>) -> Self {
        Self::new(Status::Conflict, kind, title)
    }

    /// Something has changed since it was seen.
    pub fn changed(kind: &'static str, title: impl Into<String>) -> Self {
        Self::new(Status::PreconditionFailed, kind, title)
    }

    /// A write without a header that it needs.
    pub fn header_missing() -> Self {
        Self::new(
            Status::PreconditionRequired,
            "header-missing",
            "A write needs an Idempotency-Key header of 8 to 80 characters, and an edit an If-Match header with the version that was seen.",
        )
    }

    /// A file with faults.
    pub fn file(title: impl Into<String>, faults: Vec<PlacedFault>) -> Self {
        Self {
            faults,
            ..Self::new(Status::UnprocessableEntity, "faulty-file", title)
        }
    }

    /// Why nothing can be chosen from what was asked; `sizes` is what the request calls the sizes to choose from.
    pub fn of_choice(error: ChooseError, sizes: &str) -> Self {
        let field = match error.field() {
            "required_probability" => "floor",
            "stock" => sizes,
            field => field,
        };
        Self::field(field, error)
    }

    /// The faults of a CSV of drawers.
    pub fn of_csv(faults: Vec<csv::LineFault>) -> Self {
        let placed = faults.into_iter().map(|f| PlacedFault {
            place: if f.line == 0 {
                "the file".to_owned()
            } else if f.column.is_empty() {
                format!("line {}", f.line)
            } else {
                format!("line {}, {}", f.line, f.column)
            },
            message: f.message,
        });
        Self::file(
            "The file has faults, so nothing was taken from it.",
            placed.collect(),
        )
    }

    /// The faults of a sheet.
    pub fn of_sheet(faults: Vec<sheet::Fault>) -> Self {
        let s = if faults.len() == 1 {
            "a fault"
        } else {
            "faults"
        };
        let placed = faults.into_iter().map(|f| PlacedFault {
            place: f.place,
            message: f.message,
        });
        Self::file(
            format!("The sheet has {s}, so nothing was taken from it."),
            placed.collect(),
        )
    }

    /// The faults of a selection chart.
    pub fn of_chart(faults: Vec<chart::ChartFault>) -> Self {
        let placed = faults.into_iter().map(|f| PlacedFault {
            place: if f.row == 0 {
                "the chart".into()
            } else {
                format!("row {}", f.row)
            },
            message: f.message,
        });
        Self::file(
            "The chart has faults, so the sheet is as it was.",
            placed.collect(),
        )
    }

    /// A request that did not come in its time.
    pub fn too_slow() -> Self {
        Self::new(
            Status::RequestTimeout,
            "too-slow",
            "The request took too long on its way. Nothing was changed; send it again.",
        )
    }

    /// A request that is none.
    pub fn no_request(cause: impl std::fmt::Display) -> Self {
        tracing::debug!(%cause, "a request that is none");
        Self::new(
            Status::BadRequest,
            "bad-request",
            "The request could not be read: its body ended too early, or its chunks are no chunks (RFC 9112, 7.1).",
        )
    }

    /// More than is taken.
    pub fn too_large() -> Self {
        Self::new(
            Status::PayloadTooLarge,
            "too-large",
            "That is too large: a sheet or a CSV file may have up to 2 MB, a picture up to 8 MB.",
        )
    }

    /// Records that contradict themselves, or are what this program never writes.
    fn unreadable(why: String) -> Self {
        Self {
            unreadable: Some(why.as_str().into()),
            ..Self::server(why)
        }
    }

    /// Somebody else is at the same thing.
    fn busy(again: Again) -> Self {
        Self {
            again,
            ..Self::new(
                Status::ServiceUnavailable,
                "busy",
                "Somebody else is writing to the same job or drawer. Nothing was changed; try again in a moment.",
            )
        }
    }

    /// As much of it is under way as there is room for; `title` says of what.
    pub fn later(title: impl Into<String>) -> Self {
        Self::new(Status::ServiceUnavailable, "busy", title)
    }

    /// A fault of the server's own; the cause goes to the log, under a number that is sent.
    pub fn server(cause: impl std::fmt::Display) -> Self {
        static LAST: AtomicU64 = AtomicU64::new(0);
        let number = LAST.fetch_add(1, Ordering::Relaxed) + 1;
        let incident = format!("{:x}-{number}", std::process::id());
        tracing::error!(%incident, %cause, "server fault");
        Self {
            incident: Some(incident.into()),
            ..Self::new(
                Status::InternalServerError,
                "server-fault",
                "The server could not do this. Nothing was changed; try again, and if it stays so, look in the server's log under this number.",
            )
        }
    }
}

impl From<DbError> for Problem {
    fn from(error: DbError) -> Self {
        match error {
            DbError::Missing(title) => Self::missing(title),
            DbError::Refused(refusal) => refusal.into(),
            DbError::KeyUsed => {
                Self::new(Status::UnprocessableEntity, "key-used", error.to_string())
            }
            DbError::KeyPast => Self::conflict("key-past", error.to_string()),
            DbError::Unreadable { .. } => Self::unreadable(error.to_string()),
            DbError::Sql(error) if db::error::is_out_of_reach(&error) => {
                tracing::warn!(%error, "database out of reach");
                Self::new(
                    Status::ServiceUnavailable,
                    "database-out-of-reach",
                    "The database is out of reach. Nothing was changed; try again in a moment.",
                )
            }
            DbError::Sql(error) if db::error::is_held(&error) => Self::busy(Again::Once),
            DbError::Sql(error) if db::error::is_lost_race(&error) => Self::busy(Again::AtOnce),
            DbError::Again => Self::busy(Again::AtOnce),
            DbError::Sql(error) if db::error::is_unreadable(&error) => {
                Self::unreadable(error.to_string())
            }
            DbError::Sql(error) => Self::server(error),
        }
    }
}

impl From<Refusal> for Problem {
    fn from(refusal: Refusal) -> Self {
        let Refusal { nature, message } = refusal;
        match nature {
            Nature::Conflict(case) => Self::conflict(case, message),
            Nature::Field(field) => Self::field(field, message),
            Nature::Missing => Self::missing(message),
            Nature::Fault => Self::unreadable(message),
        }
    }
}

impl<'r> Responder<'r, 'static> for Problem {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'static> {
        let status = Status::from_code(self.status).unwrap_or(Status::InternalServerError);
        let body = serde_json::to_string(&self).map_err(|_| Status::InternalServerError)?;
        let mut answer = response::Response::build_from(body.respond_to(request)?);
        answer
            .status(status)
            .header(ContentType::new("application", "problem+json"));
        if status == Status::ServiceUnavailable {
            answer.header(Header::new("Retry-After", "2"));
        }
        answer.ok()
    }
}

/// What Rocket itself turns away, in the same form.
#[rocket::catch(default)]
pub fn turned_away(status: Status, request: &Request<'_>) -> TurnedAway {
    let problem = match request.local_cache(|| None::<Problem>) {
        Some(told) => told.clone(),
        None if status == Status::NotFound => return nothing_at(request),
        None => problem_of(status),
    };
    TurnedAway {
        problem,
        allowed: None,
    }
}

/// What Rocket turned away, and the methods that go at the address where another was tried.
pub struct TurnedAway {
    problem: Problem,
    allowed: Option<String>,
}

impl<'r> Responder<'r, 'static> for TurnedAway {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'static> {
        let mut answer = self.problem.respond_to(request)?;
        if let Some(allowed) = self.allowed {
            answer.set_header(Header::new("Allow", allowed));
        }
        Ok(answer)
    }
}

fn problem_of(status: Status) -> Problem {
    match status.code {
        400 => Problem::new(
            status,
            "bad-request",
            "The request could not be read: its body must be JSON of the form that /api/openapi.json describes.",
        ),
        413 => Problem::too_large(),
        422 => Problem::new(
            status,
            "bad-request",
            "The request has a field that is missing or of the wrong kind: /api/openapi.json says which fields there are.",
        ),
        428 => Problem::header_missing(),
        500 => Problem::server("a handler failed"),
        _ => Problem::new(
            status,
            "turned-away",
            status
                .reason()
                .unwrap_or("The request was turned away.")
                .to_owned(),
        ),
    }
}

/// Pages, which take whatever address is left over, have this rank among the routes.
pub const PAGES: isize = 15;

/// Nothing is at the address; or what is there takes other methods.
fn nothing_at(request: &Request<'_>) -> TurnedAway {
    let path = request.uri().path();
    let here: Vec<&str> = path.segments().collect();
    // How many parts of a route stand for anything, where it goes at this address.
    let open_parts = |route: &Route| {
        let names = route.uri.path().split('/').filter(|s| !s.is_empty());
        let names: Vec<&str> = names.collect();
        let alike = |(name, here): (&&str, &&str)| name.starts_with('<') || name == here;
        let goes =
            route.rank < PAGES && names.len() == here.len() && names.iter().zip(&here).all(alike);
        goes.then(|| names.iter().filter(|n| n.starts_with('<')).count())
    };
    let routes: Vec<(usize, &str)> = request
        .rocket()
        .routes()
        .filter_map(|route| Some((open_parts(route)?, route.method.as_str())))
        .collect();
    // What goes by its name goes before what goes by any.
    let plainest = routes.iter().map(|r| r.0).min();
    let plain = routes.iter().filter(|r| Some(r.0) == plainest);
    let mut methods: Vec<&str> = plain.map(|r| r.1).collect();
    methods.sort_unstable();
    methods.dedup();
    if methods.is_empty() || methods.contains(&request.method().as_str()) {
        return TurnedAway {
            problem: Problem::missing(format!("There is nothing at {path}.")),
            allowed: None,
        };
    }
    let allowed = methods.join(", ");
    let told = format!("That does not go at {path}: it takes {allowed}.");
    TurnedAway {
        problem: Problem::new(Status::MethodNotAllowed, "wrong-method", told),
        allowed: Some(allowed),
    }
}
