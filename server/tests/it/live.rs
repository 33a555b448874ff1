//! A gauge that speaks, relayed to screens over sockets by the real server on a port of its own.

use std::time::Duration;

use crate::house::base::{Base, Holds};
use crate::house::fresh_key;
use dry_anvil::db::Store;
use dry_anvil::figment;
use rocket::futures::{SinkExt, StreamExt};
use serde_json::{Value, json};
use tokio::io::AsyncWriteExt;
use tokio::net::{TcpListener, TcpStream};
use tokio::time::timeout;
use tokio_tungstenite::tungstenite::Message;
use tokio_tungstenite::tungstenite::client::IntoClientRequest;

type Screen =
    tokio_tungstenite::WebSocketStream<tokio_tungstenite::MaybeTlsStream<tokio::net::TcpStream>>;

/// The real server on a free port, with a digital gauge that is expected at another.
struct Bench {
    at: String,
    gauge_at: std::net::SocketAddr,
    stop: rocket::Shutdown,
    #[allow(dead_code)] // gone with it
    base: Base,
}

impl Bench {
    async fn open() -> Self {
        let base = Base::of(Holds::SmallShop).await;
        let store = Store::new(base.pool.clone(), 1);
        let free = || {
            let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
            listener.local_addr().unwrap()
        };
        let (own, gauge_at) = (free(), free());
        let figment = figment()
            .merge(("port", own.port()))
            .merge(("log_level", "off"));
        let server = dry_anvil::rocket(figment, store).ignite().await.unwrap();
        let stop = server.shutdown();
        tokio::spawn(server.launch());
        let at = format!("127.0.0.1:{}", own.port());
        let client = reqwest::Client::new();
        let card = json!({"key": "told-1", "name": "Told", "resolution": "0.001",
            "permissible_error": "0.004", "live_at": gauge_at.to_string()});
        for _ in 0..100 {
            let put = client
                .put(format!("http://{at}/api/gauges"))
                .header("Idempotency-Key", fresh_key())
                .json(&json!({"card": card, "who": "RT"}))
                .send()
                .await;
            if put.is_ok_and(|p| p.status().is_success()) {
                return Self {
                    at,
                    gauge_at,
                    stop,
                    base,
                };
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        panic!("the server does not answer");
    }

    async fn screen(&self, path: &str) -> Screen {
        let request = format!("ws://{}{path}", self.at);
        tokio_tungstenite::connect_async(request).await.unwrap().0
    }

    /// Plugs the gauge in; gives the server's end once it has come.
    async fn plug_in(&self) -> (TcpListener, TcpStream) {
        let listener = TcpListener::bind(self.gauge_at).await.unwrap();
        let (stream, _) = timeout(Duration::from_secs(10), listener.accept())
            .await
            .unwrap()
            .unwrap();
        (listener, stream)
    }
}

/// What a screen is told, until it is as wanted.
async fn told(screen: &mut Screen, wanted: impl Fn(&Value) -> bool) -> Value {
    let heard = timeout(Duration::from_secs(10), async {
        loop {
            if let Message::Text(text) = screen.next().await.unwrap().unwrap() {
                let told: Value = serde_json::from_str(&text).unwrap();
                if wanted(&told) {
                    return told;
                }
            }
        }
    });
    heard.await.expect("the screen was never told so")
}

/// The gauge rests at a figure long enough to be held.
async fn rest(gauge: &mut TcpStream, um: i64) {
    for _ in 0..40 {
        let line = format!("{um} um\n");
        gauge.write_all(line.as_bytes()).await.unwrap();
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

#[tokio::test]
async fn a_gauge_is_relayed_held_and_survived() {
    let bench = Box::pin(Bench::open()).await;
    let mut first = bench.screen("/api/live/told-1").await;
    told(&mut first, |t| t["state"] == "unplugged").await;
    let (listener, mut gauge) = bench.plug_in().await;
    told(&mut first, |t| t["state"] == "silent").await;

    // Two screens, one connection: no second one comes.
    let mut second = bench.screen("/api/live/told-1").await;
    tokio::join!(
        async {
            rest(&mut gauge, 12).await;
            rest(&mut gauge, 262).await;
        },
        async {
            let held = told(&mut first, |t| t["travel_nm"] == 250_000).await;
            assert_eq!(
                (held["low_nm"].as_i64(), held["high_nm"].as_i64()),
                (Some(12_000), Some(262_000))
            );
        }
    );
    told(&mut second, |t| t["nm"] == 262_000).await;
    assert!(
        timeout(Duration::from_millis(200), listener.accept())
            .await
            .is_err()
    );

    // One screen clears its holds; the other keeps its own.
    first.send(Message::Text("clear".into())).await.unwrap();
    gauge.write_all(b"300 um\n").await.unwrap();
    let cleared = told(&mut first, |t| t["nm"] == 300_000).await;
    assert!(cleared["travel_nm"].is_null());
    told(&mut second, |t| t["travel_nm"] == 250_000).await;

    // Garbled lines are counted with why, and no figure is made of them.
    gauge
        .write_all(b"#?!\n0.1.2 mm\n\xff\xfe mm\n")
        .await
        .unwrap();
    let garbled = told(&mut first, |t| t["garbled"] == 3).await;
    assert_eq!(garbled["nm"], 300_000);
    assert!(garbled["why"].as_str().unwrap().contains("no text"));

    // A flood: the newest is told, the rest passed over.
    let before = garbled["readings"].as_u64().unwrap();
    let mut flood = "0.5 mm\n".repeat(50_000).into_bytes();
    flood.extend(b"0.777 mm\n");
    gauge.write_all(&flood).await.unwrap();
    let newest = told(&mut first, |t| t["nm"] == 777_000).await;
    assert_eq!(newest["readings"].as_u64().unwrap(), before + 50_001);

    // Pulled out, and plugged in again.
    drop(gauge);
    drop(listener);
    let gone = told(&mut first, |t| t["state"] == "unplugged").await;
    assert!(gone["nm"].is_null());
    let (_listener, mut again) = bench.plug_in().await;
    again.write_all(b"1 thou\n").await.unwrap();
    told(&mut first, |t| t["nm"] == 25_400).await;
    told(&mut second, |t| t["nm"] == 25_400).await;
    bench.stop.notify();
}

#[tokio::test]
async fn a_screens_own_serial_lines_are_read_however_they_are_cut() {
    let bench = Box::pin(Bench::open()).await;
    let mut screen = bench.screen("/api/live-lines").await;
    for part in ["+0.0", "100 i", "n\r\n", "nonsense\r\n"] {
        screen.send(Message::Binary(part.into())).await.unwrap();
    }
    let heard = told(&mut screen, |t| t["garbled"] == 1).await;
    assert_eq!(
        (heard["nm"].as_i64(), heard["readings"].as_i64()),
        (Some(254_000), Some(1))
    );
    bench.stop.notify();
}

/// Another page in the same browser opens no socket here, and an eye-read gauge has none.
#[tokio::test]
async fn sockets_are_for_own_pages_and_for_gauges_that_speak() {
    let bench = Box::pin(Bench::open()).await;
    let ask = |path: &str, origin: &str| {
        let mut request = format!("ws://{}{path}", bench.at)
            .into_client_request()
            .unwrap();
        request
            .headers_mut()
            .insert("Origin", origin.parse().unwrap());
        tokio_tungstenite::connect_async(request)
    };
    let own = format!("http://{}", bench.at);
    assert!(ask("/api/live/told-1", &own).await.is_ok());
    assert!(
        ask("/api/live/told-1", "http://elsewhere.example")
            .await
            .is_err()
    );
    assert!(ask("/api/live-lines", "http://127.0.0.1:1").await.is_err());
    assert!(ask("/api/live/dial-1", &own).await.is_err());
    assert!(ask("/api/live/none", &own).await.is_err());
    bench.stop.notify();
}
