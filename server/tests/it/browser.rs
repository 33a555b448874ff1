//! The real interface in headless Chromium: the demo shop on a fresh database, the real server on a
//! free port, and Playwright's tests in `web/e2e` against it.

use crate::house::demo;
use dry_anvil::db::Store;
use sqlx::PgPool;

#[sqlx::test]
async fn the_interface_in_a_browser(pool: PgPool) {
    let store = Store::new(pool, 1);
    assert!(dry_anvil::load::shop(&store, &demo()).await.unwrap());
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
    let serving = tokio::spawn(server.launch());
    let ran = tokio::process::Command::new("npx")
        .args(["--no-install", "playwright", "test"])
        .current_dir(&web)
        .env("DRY_ANVIL_AT", format!("http://127.0.0.1:{port}"))
        .status()
        .await
        .unwrap();
    stop.notify();
    serving.await.unwrap().unwrap();
    assert!(
        ran.success(),
        "the browser tests failed; their report is above"
    );
}
