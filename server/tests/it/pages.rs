//! The front end's files: their addresses, how long they are kept, and how they are sent.

use dry_anvil::http::pages::Pages;
use rocket::http::Header;
use rocket::local::blocking::Client;

fn client() -> Client {
    let dir = tempfile::tempdir().unwrap();
    std::fs::create_dir(dir.path().join("assets")).unwrap();
    for (name, text) in [
        ("index.html", "<p>the bench</p>".repeat(50)),
        ("assets/a-1f.js", "1".repeat(900)),
        ("icon.svg", "<svg/>".into()),
    ] {
        std::fs::write(dir.path().join(name), text).unwrap();
    }
    let route = Pages::of(dir.path()).unwrap().route();
    Client::untracked(rocket::build().mount("/", vec![route])).unwrap()
}

#[test]
fn addresses_and_how_long_they_are_kept() {
    let client = client();
    for (at, status, kind, keep) in [
        ("/", 200, "text/html; charset=utf-8", "no-cache"),
        (
            "/jobs/7/checks/input-float",
            200,
            "text/html; charset=utf-8",
            "no-cache",
        ),
        ("/icon.svg", 200, "image/svg+xml", "no-cache"),
        (
            "/assets/a-1f.js",
            200,
            "text/javascript",
            "public, max-age=31536000, immutable",
        ),
        ("/assets/gone.js", 404, "", ""),
        ("/assets/../index.html", 404, "", ""),
        ("/api/nothing", 404, "", ""),
    ] {
        let answer = client.get(at).dispatch();
        assert_eq!(answer.status().code, status, "{at}");
        if status == 200 {
            assert_eq!(answer.headers().get_one("Content-Type"), Some(kind), "{at}");
            assert_eq!(
                answer.headers().get_one("Cache-Control"),
                Some(keep),
                "{at}"
            );
        }
    }
}

#[test]
fn what_is_known_is_not_sent_again() {
    let client = client();
    let first = client.get("/").dispatch();
    let etag = first.headers().get_one("ETag").unwrap().to_owned();
    let again = |tag: String| {
        client
            .get("/")
            .header(Header::new("If-None-Match", tag))
            .dispatch()
            .status()
            .code
    };
    assert_eq!(again(etag.clone()), 304);
    assert_eq!(again(format!("\"other\", W/{etag}")), 304);
    assert_eq!(again("\"other\"".into()), 200);
}

#[test]
fn it_is_sent_short_to_who_takes_it_so() {
    let client = client();
    for (accepted, encoding) in [
        ("br, gzip", Some("gzip")),
        ("*", Some("gzip")),
        ("gzip;q=0", None),
        ("", None),
    ] {
        let answer = client
            .get("/assets/a-1f.js")
            .header(Header::new("Accept-Encoding", accepted))
            .dispatch();
        assert_eq!(
            answer.headers().get_one("Content-Encoding"),
            encoding,
            "{accepted}"
        );
        let length = answer.into_bytes().unwrap().len();
        assert_eq!(length < 100, encoding.is_some(), "{length}");
    }
    // What would not get shorter stays as it is.
    let small = client
        .get("/icon.svg")
        .header(Header::new("Accept-Encoding", "gzip"))
        .dispatch();
    assert_eq!(small.headers().get_one("Content-Encoding"), None);
}
