//! The real interface in headless Chromium: the demo shop on a fresh database, the real server on a
//! free port, and Playwright's tests in `web/e2e` against it, shared out over as many shops as run side by side.

use dry_anvil::db::Store;

use crate::house::base::{Base, Holds};
use crate::house::demo;

/// Into how many parts the tests are shared out; each has a shop and a browser of its own.
const PARTS: usize = 2;

#[tokio::test]
async fn the_interface_in_a_browser_one_of_two() {
    drive(1).await;
}

#[tokio::test]
async fn the_interface_in_a_browser_two_of_two() {
    drive(2).await;
}

/// Runs one part of the browser tests; `DRY_ANVIL_ONLY` in the environment is a pattern of the ones wanted.
async fn drive(number: usize) {
    let base = Base::of(Holds::Demo).await;
    let store = Store::new(base.pool.clone(), 1);
    let web = demo().join("../web");
    assert!(
        web.join("dist/index.html").exists(),
        "the front end is not built: ./test builds it"
    );
    let port = std::net::TcpListener::bind("127.0.0.1:0")
        .unwrap()
        .local_addr()
        .unwrap()
        .port();
    let figment = dry_anvil::figment()
        .merge(("port", port))
        .merge(("web_dir", web.join("dist")))
        .merge(("log_level", "off"));
    let server = dry_anvil::rocket(figment, store).ignite().await.unwrap();
    let stop = server.shutdown();
    let running = tokio::spawn(server.launch());
    let only = std::env::var("DRY_ANVIL_ONLY").unwrap_or_default();
    let ran = tokio::process::Command::new("npx")
        .args(["--no-install", "playwright", "test", "--pass-with-no-tests"])
        .arg(format!("--shard={number}/{PARTS}"))
        .args(["--output", &format!("test-results/{number}"), "-g", &only])
        .current_dir(&web)
        .env("DRY_ANVIL_AT", format!("http://127.0.0.1:{port}"))
        .status()
        .await
        .unwrap();
    stop.notify();
    running.await.unwrap().unwrap();
    assert!(
        ran.success(),
        "the browser tests failed; their report is above"
    );
}
