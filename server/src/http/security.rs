//! Who may speak to the server, and what every answer says of itself.

use std::sync::Mutex;

use rocket::fairing::{Fairing, Info, Kind};
use rocket::figment::Figment;
use rocket::http::uncased::UncasedStr;
use rocket::http::uri::Origin;
use rocket::http::{Header, Method, Status};
use rocket::request::Request;
use rocket::shield::{Frame, NoSniff, Policy, Referrer, Shield};
use rocket::{Build, Data, Orbit, Rocket};

use super::problem::Problem;

/// Turns away every request whose `Host` or `Origin` is not the server's own, so that no other
/// page open in the same browser can read or write here (there are no passwords).
#[derive(Default)]
pub struct OwnPagesOnly {
    port: Mutex<Option<u16>>,
}

/// Where refused requests are led.
const REFUSED: &str = "/refused";
/// Where those are led whose address holds a character that no database keeps.
const UNSTORABLE: &str = "/unstorable";

/// Where those are led whose address is longer than any.
const TOO_LONG: &str = "/too-long";
/// Where those are led that ask for a thing twice.
const REPEATED: &str = "/repeated";
/// A part of an address, or a word that is searched for, has so many characters at the most.
const LONGEST_PART: usize = 200;

#[rocket::async_trait]
impl Fairing for OwnPagesOnly {
    fn info(&self) -> Info {
        Info {
            name: "own pages only",
            kind: Kind::Ignite | Kind::Liftoff | Kind::Request,
        }
    }

    async fn on_ignite(&self, rocket: Rocket<Build>) -> rocket::fairing::Result {
        if let Ok(mut port) = self.port.lock() {
            // Port 0 is any that is free, known only at liftoff.
            *port = public_port(rocket.figment()).or_else(|| {
                let own = rocket.figment().extract_inner("port").ok();
                own.filter(|p| *p != 0)
            });
        }
        Ok(rocket.mount(
            "/",
            rocket::routes![refused, unstorable, too_long, repeated],
        ))
    }

    async fn on_liftoff(&self, rocket: &Rocket<Orbit>) {
        if let Ok(mut port) = self.port.lock() {
            *port = public_port(rocket.figment()).or(Some(rocket.config().port));
        }
    }

    async fn on_request(&self, request: &mut Request<'_>, _: &mut Data<'_>) {
        let port = self.port.lock().ok().and_then(|p| *p);
        // A client within the process (in tests) has no address, and no host but the header it sets.
        let within = request.remote().is_none();
        let host_own = request.host().map_or(within, |h| own(&h.to_string(), port))
            && request.headers().get("Host").all(|h| own(h, port));
        let origin_own = request.headers().get("Origin").all(|o| {
            o.strip_prefix("http://")
                .is_some_and(|host| own(host, port))
        });
        let site = request.headers().get_one("Sec-Fetch-Site");
        let strange_write = request.method() != Method::Get && site == Some("cross-site");
        let uri = request.uri();
        let nul = |text: &str| text.contains("%00");
        let unstorable = nul(uri.path().as_str()) || uri.query().is_some_and(|q| nul(q.as_str()));
        let long = |text: &str| text.chars().count() > LONGEST_PART;
        let too_long = uri.path().segments().any(long)
            || uri
                .query()
                .is_some_and(|q| q.segments().any(|(_, value)| long(value)));
        let repeated = uri.query().is_some_and(|q| {
            let names: Vec<&str> = q.segments().map(|(name, _)| name).collect();
            let again = |(at, name): (usize, &&str)| names[..at].contains(name);
            names.iter().enumerate().any(again)
        });
        let led = [
            (!host_own || !origin_own || strange_write, REFUSED),
            (unstorable, UNSTORABLE),
            (too_long, TOO_LONG),
            (repeated, REPEATED),
        ];
        if let Some((_, to)) = led.into_iter().find(|(wrong, _)| *wrong) {
            request.set_method(Method::Get);
            request.set_uri(Origin::path_only(to));
        }
    }
}

/// The port by which it is known, where that is another's that hands on to this one.
fn public_port(figment: &Figment) -> Option<u16> {
    figment.extract_inner("public_port").ok()
}

fn own(host: &str, port: Option<u16>) -> bool {
    let (name, given) = match host.rsplit_once(':') {
        Some((name, digits))
            if !digits.is_empty() && digits.bytes().all(|b| b.is_ascii_digit()) =>
        {
            (name, digits.parse::<u16>().ok())
        }
        _ => (host, Some(80)),
    };
    let loopback = matches!(name, "127.0.0.1" | "localhost" | "[::1]");
    loopback && port.is_none_or(|p| given == Some(p))
}

#[rocket::get("/refused")]
fn refused() -> Problem {
    Problem::new(
        Status::Forbidden,
        "not-this-page",
        "This server answers only its own pages on this machine. Open it by the address it printed when it started.",
    )
}

#[rocket::get("/unstorable")]
fn unstorable() -> Problem {
    Problem::field(
        "address",
        "The address holds a character that cannot be kept (NUL, %00): take it out.",
    )
}

#[rocket::get("/too-long")]
fn too_long() -> Problem {
    Problem::field(
        "address",
        format!(
            "A part of the address is longer than {LONGEST_PART} characters: shorten what is searched for."
        ),
    )
}

#[rocket::get("/repeated")]
fn repeated() -> Problem {
    Problem::field(
        "address",
        "The address says the same thing twice: say it once.",
    )
}

/// What a page may load and run: what this server ships, and pictures drawn in the page.
const CONTENT: &str = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; base-uri 'none'; form-action 'self'; object-src 'none'; frame-ancestors 'none'";

/// A header of every answer, with what it always says.
macro_rules! always {
    ($policy:ident, $name:literal, $says:expr) => {
        #[doc = concat!("The `", $name, "` of every answer.")]
        #[derive(Default)]
        struct $policy;

        impl Policy for $policy {
            const NAME: &'static str = $name;

            fn header(&self) -> Header<'static> {
                Header::new(UncasedStr::new(Self::NAME).as_str(), $says)
            }
        }
    };
}
always!(ContentSecurityPolicy, "Content-Security-Policy", CONTENT);
// No page of another place takes a picture or a file from here, nor holds a window of this one.
always!(
    ResourcePolicy,
    "Cross-Origin-Resource-Policy",
    "same-origin"
);
always!(OpenerPolicy, "Cross-Origin-Opener-Policy", "same-origin");

/// Answers are never sniffed, never framed, taken by no other place, and say nothing of where somebody came from.
pub fn shield() -> Shield {
    Shield::new()
        .enable(NoSniff::default())
        .enable(Frame::Deny)
        .enable(Referrer::NoReferrer)
        .enable(ContentSecurityPolicy)
        .enable(ResourcePolicy)
        .enable(OpenerPolicy)
}
