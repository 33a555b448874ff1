//! The real interface in headless Chromium: the demo shop on a fresh database, the real server on a
//! free port, and Playwright's tests in `web/e2e` against it: side by side, each of Playwright's workers with a shop of
//! its own, so that none waits for another and none sees what another does.

use dry_anvil::db::Store;

use crate::house::base::{Base, Holds};
use crate::house::demo;

/// How many workers; each has a shop and a browser of its own.
const WORKERS: usize = 2;

/// A demo shop that is served, until it is told to stop.
struct Served {
    at: String,
    stop: rocket::Shutdown,
    running: tokio::task::JoinHandle<Result<rocket::Rocket<rocket::Ignite>, rocket::Error>>,
    #[allow(dead_code)] // gone with it
    base: Base,
}

impl Served {
    async fn open() -> Self {
        let base = Base::of(Holds::Demo).await;
        let store = Store::new(base.pool.clone(), 1);
        let port = std::net::TcpListener::bind("127.0.0.1:0")
            .unwrap()
            .local_addr()
            .unwrap()
            .port();
        let figment = dry_anvil::figment()
            .merge(("port", port))
            .merge(("web_dir", demo().join("../web/dist")))
            .merge(("log_level", "off"));
        let server = dry_anvil::rocket(figment, store).ignite().await.unwrap();
        Self {
            at: format!("http://127.0.0.1:{port}"),
            stop: server.shutdown(),
            running: tokio::spawn(server.launch()),
            base,
        }
    }
}

/// `DRY_ANVIL_ONLY` in the environment is a pattern of the ones wanted.
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn the_interface_in_a_browser() {
    let web = demo().join("../web");
    assert!(
        web.join("dist/index.html").exists(),
        "the front end is not built: ./test builds it"
    );
    let mut shops = Vec::new();
    for _ in 0..WORKERS {
        shops.push(Served::open().await);
    }
    let at: Vec<&str> = shops.iter().map(|s| s.at.as_str()).collect();
    let only = std::env::var("DRY_ANVIL_ONLY").unwrap_or_default();
    let ran = tokio::process::Command::new("npx")
        .args(["--no-install", "playwright", "test", "-g", &only])
        .args(["--workers", &WORKERS.to_string()])
        .current_dir(&web)
        .env("DRY_ANVIL_AT", at.join(","))
        .status()
        .await
        .unwrap();
    for shop in shops {
        shop.stop.notify();
        shop.running.await.unwrap().unwrap();
    }
    assert!(
        ran.success(),
        "the browser tests failed; their report is above"
    );
}
