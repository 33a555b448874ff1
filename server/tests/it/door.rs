//! What HTTP turns away at the door: what is too slow, too long, or asked for in the wrong way.

use std::net::SocketAddr;
use std::sync::Mutex;
use std::time::Duration;

use dry_anvil::db::Store;
use dry_anvil::http::front::{self, Patience};
use dry_anvil::{figment, rocket};
use rocket::fairing::AdHoc;
use rocket::http::Method;
use serde_json::json;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};
use tokio::time::timeout;

use crate::house::Shop;

/// What dribbles is told so and closed: a head, the first of a body, and the rest of one. Who sends at once is served.
#[tokio::test]
async fn what_dribbles_is_given_up() {
    let shop = Shop::open().await;
    let pool = shop.pool.clone();
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let port = listener.local_addr().unwrap().port();
    let (told, inner) = tokio::sync::oneshot::channel();
    let told = Mutex::new(Some(told));
    let settings = figment()
        .merge(("port", 0))
        .merge(("public_port", port))
        .merge(("log_level", "off"));
    let server = rocket(settings, Store::new(pool, 1));
    let server = server.attach(AdHoc::on_liftoff("port", move |rocket| {
        let told = told.lock().unwrap().take().unwrap();
        told.send(rocket.config().port).unwrap();
        Box::pin(async {})
    }));
    let server = tokio::spawn(server.launch());
    let patience = Patience {
        head: Duration::from_millis(700),
        body: Duration::from_millis(700),
    };
    let within = SocketAddr::from(([127, 0, 0, 1], inner.await.unwrap()));
    let front = tokio::spawn(front::serve(listener, within, patience));
    let send = async |text: &str| {
        let mut stream = TcpStream::connect(("127.0.0.1", port)).await.unwrap();
        stream.write_all(text.as_bytes()).await.unwrap();
        let mut answer = Vec::new();
        let all = stream.read_to_end(&mut answer);
        timeout(Duration::from_secs(10), all)
            .await
            .expect("it is closed")
            .unwrap();
        String::from_utf8(answer).unwrap()
    };
    let body = r#"{"text": "6 1/2 thou", "unit": "mm"}"#;
    let head = format!(
        "POST /api/calc/parse HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nContent-Type: application/json\r\nConnection: close\r\nContent-Length: {}\r\n\r\n",
        body.len()
    );
    let whole = send(&format!("{head}{body}")).await;
    assert!(
        whole.starts_with("HTTP/1.1 200") && whole.contains("165100"),
        "{whole}"
    );
    for part in [1, 30] {
        let answer = send(&format!("{head}{}", &body[..part])).await;
        assert!(
            answer.starts_with("HTTP/1.1 408") && answer.contains("too-slow"),
            "{answer}"
        );
    }
    // Larger than anything that is taken there: whoever sends it is heard out, and told.
    let large = "a".repeat(9_500_000);
    let head_of = |length: &str| head.replace(&format!("Content-Length: {}", body.len()), length);
    let answer = send(&format!("{}{large}", head_of("Content-Length: 9500000"))).await;
    assert!(answer.starts_with("HTTP/1.1 413"), "{answer}");
    // What is no chunk is no fault of the server's.
    for chunk in [
        "zz\r\n{}\r\n0\r\n\r\n",
        "fffffffffffffffff\r\n{}\r\n",
        "-1\r\n{}\r\n0\r\n\r\n",
    ] {
        let answer = send(&format!("{}{chunk}", head_of("Transfer-Encoding: chunked"))).await;
        assert!(
            answer.starts_with("HTTP/1.1 400") && answer.contains("bad-request"),
            "{answer}"
        );
    }
    let answer = send(&head[..40]).await;
    assert!(!answer.contains("200"), "{answer}");
    assert_eq!(shop.get("/api/jobs").await.status.code, 200);
    // Where the server within is gone, the one who asks may come again.
    server.abort();
    let _ = server.await;
    let answer = send(&format!("{head}{body}")).await;
    assert!(
        answer.starts_with("HTTP/1.1 503") && answer.contains("retry-after: 2"),
        "{answer}"
    );
    front.abort();
}

#[tokio::test]
async fn an_address_that_takes_other_methods_says_which() {
    let shop = Shop::open().await;
    let job = shop.job().await;
    for (method, path, allowed) in [
        (Method::Get, "/api/share".to_owned(), "POST"),
        (Method::Delete, "/api/jobs".to_owned(), "GET, POST"),
        (Method::Put, format!("{job}/second-side"), "GET"),
        (Method::Post, "/readyz".to_owned(), "GET"),
        // The one that goes by this name, and not the drawer that could be called so.
        (Method::Delete, "/api/drawers/acts".to_owned(), "POST"),
    ] {
        let answer = shop.client.req(method, path.clone()).dispatch().await;
        assert_eq!(answer.status().code, 405, "{path}");
        assert_eq!(answer.headers().get_one("Allow"), Some(allowed), "{path}");
    }
    shop.get("/api/nothing").await.refused(404, "not-found");
    shop.get("/api/jobs/9999").await.refused(404, "not-found");
}

#[tokio::test]
async fn texts_have_a_length() {
    let shop = Shop::open().await;
    let card = |title: &str, key: &str| json!({"sheet_key": key, "title": title, "customer": "A baker", "complaint": "", "who": "RT"});
    let long = shop
        .post("/api/jobs", None, card(&"ä".repeat(81), "tolvane-t5"))
        .await;
    assert_eq!(long.refused(422, "bad-field")["field"], "title");
    let long = shop
        .post("/api/jobs", None, card("Van", &"a".repeat(201)))
        .await;
    assert_eq!(long.refused(422, "bad-field")["field"], "sheet_key");
    shop.post("/api/jobs", None, card(&"ä".repeat(80), "tolvane-t5"))
        .await
        .ok();
    let search = |n: usize| format!("/api/jobs?search={}", "a".repeat(n));
    shop.get(&search(200)).await.ok();
    assert_eq!(
        shop.get(&search(201)).await.refused(422, "bad-field")["field"],
        "address"
    );
    let path = format!("/api/drawers/{}/moves", "a".repeat(201));
    assert_eq!(
        shop.get(&path).await.refused(422, "bad-field")["field"],
        "address"
    );
}

#[tokio::test]
async fn what_is_asked_for_is_of_its_kind_or_refused() {
    let shop = Shop::open().await;
    shop.job().await;
    for (path, field) in [
        ("/api/jobs?finished=banana", "finished"),
        ("/api/jobs?before=soon", "before"),
        ("/api/jobs?phase=asleep", "phase"),
        ("/api/jobs?phase=", "phase"),
        ("/api/order?job_no=all", "job_no"),
        ("/api/order/csv?unmeasured=1", "unmeasured"),
        ("/api/sheets/tolvane-t5/file?revision=new", "revision"),
        ("/api/jobs?search=a&search=b", "address"),
    ] {
        let told = shop.get(path).await.refused(422, "bad-field");
        assert_eq!(told["field"], field, "{path}");
    }
    for path in [
        "/api/jobs?finished=true&before=9&search=",
        "/api/order?job_no=1&unmeasured=true",
    ] {
        shop.get(path).await.ok();
    }
}
