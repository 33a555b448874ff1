//! What is sent is made shorter for whom it suits.

use std::io::Read;

use dry_anvil::http::compressed::Compressed;
use flate2::read::GzDecoder;
use rocket::http::{ContentType, Header};
use rocket::local::blocking::Client;
use rocket::response::content::RawJson;
use rocket::{get, routes};

#[get("/json/<long>")]
fn json(long: usize) -> RawJson<String> {
    RawJson(format!("\"{}\"", "0.24 ".repeat(long)))
}

#[get("/csv")]
fn csv() -> (ContentType, String) {
    (ContentType::CSV, "thickness,count\n".repeat(200))
}

#[get("/zip")]
fn zip() -> Vec<u8> {
    vec![0; 4_000]
}

#[test]
fn long_texts_are_compressed_for_whom_it_suits() {
    let rocket = rocket::build()
        .attach(Compressed)
        .mount("/api", routes![json, csv, zip])
        .mount("/pages", routes![json]);
    let client = Client::untracked(rocket).unwrap();
    for (path, accepts, packed) in [
        ("/api/json/1000", Some("gzip, deflate, br"), true),
        ("/api/json/1000", Some("gzip;q=0"), false),
        ("/api/json/1000", None, false),
        ("/api/json/10", Some("gzip"), false),
        ("/api/csv", Some("gzip"), true),
        ("/api/zip", Some("gzip"), false),
        ("/pages/json/1000", Some("gzip"), false),
    ] {
        let plain = client.get(path).dispatch().into_bytes().unwrap();
        let mut asked = client.get(path);
        if let Some(accepts) = accepts {
            asked.add_header(Header::new("Accept-Encoding", accepts));
        }
        let answer = asked.dispatch();
        let coded = answer.headers().get_one("Content-Encoding") == Some("gzip");
        assert_eq!(coded, packed, "{path} {accepts:?}");
        let mut body = answer.into_bytes().unwrap();
        if packed {
            assert!(body.len() < plain.len() / 4, "{path}");
            let mut unpacked = Vec::new();
            GzDecoder::new(&body[..])
                .read_to_end(&mut unpacked)
                .unwrap();
            body = unpacked;
        }
        assert!(body == plain, "{path} {accepts:?}");
    }
}
