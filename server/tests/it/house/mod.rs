//! What the tests of the server share: a small shop on a fresh database, and a client that speaks
//! as the screens do.
#![allow(dead_code)] // each test file uses its part

pub mod base;
pub mod short;

use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicU32, Ordering};

use dry_anvil::db::Store;
use dry_anvil::{figment, rocket};
use rocket::http::{ContentType, Header, Status};
use rocket::local::asynchronous::Client;
use serde_json::{Value, json};
use sqlx::PgPool;

use self::base::{Base, Holds};

/// The folder of the demo shop's files.
pub fn demo() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo")
}

/// The program itself: the same that is started, under a name of its own.
pub const PROGRAM: &str = env!("CARGO_BIN_EXE_dry-anvil-tested");

/// Whether whole budgets are thrown, as by `./test long`, and not a third of them.
pub fn whole() -> bool {
    std::env::var_os("DRY_ANVIL_LONG").is_some()
}

/// The demo shop's people, gauges, sheet and drawers in a folder, with no jobs.
pub fn small_shop() -> tempfile::TempDir {
    let dir = tempfile::tempdir().unwrap();
    std::fs::create_dir(dir.path().join("sheets")).unwrap();
    for file in ["shop.json", "sheets/tolvane-t5.json"] {
        std::fs::copy(demo().join(file), dir.path().join(file)).unwrap();
    }
    // The drawers of that sheet alone.
    let drawers = std::fs::read_to_string(demo().join("drawers.csv")).unwrap();
    let own: String = drawers
        .split_inclusive('\n')
        .filter(|line| line.starts_with("family,") || line.starts_with("t5-"))
        .collect();
    std::fs::write(dir.path().join("drawers.csv"), own).unwrap();
    std::fs::write(dir.path().join("jobs.json"), "[]").unwrap();
    dir
}

/// A shop at work: the real server on a fresh database.
pub struct Shop {
    pub client: Client,
    pub pool: PgPool,
    /// Its database, where that goes with it.
    base: Option<Base>,
}

/// An answer: status, body, and the kind of the body.
pub struct Answered {
    pub status: Status,
    pub kind: String,
    pub body: Value,
}

impl Answered {
    /// The body, where all went well.
    pub fn ok(self) -> Value {
        assert_eq!(self.status, Status::Ok, "{}", self.body);
        self.body
    }

    /// The problem, where it is of this status and type.
    pub fn refused(self, status: u16, kind: &str) -> Value {
        assert_eq!(
            (self.status.code, self.body["type"].as_str()),
            (status, Some(kind)),
            "{}",
            self.body
        );
        assert_eq!(self.kind, "application/problem+json");
        self.body
    }
}

pub fn fresh_key() -> String {
    static LAST: AtomicU32 = AtomicU32::new(0);
    format!("test-key-{}", LAST.fetch_add(1, Ordering::Relaxed))
}

/// A travel off a zeroed dial, as a screen sends it.
pub fn travel(typed: &str, who: &str) -> Value {
    json!({"way": "dial_travel", "entry": {"kind": "travel", "travel": typed}, "unit": "mm", "who": who})
}

impl Shop {
    /// The small shop, on a database of its own.
    pub async fn open() -> Self {
        Self::holding(Holds::SmallShop).await
    }

    pub async fn holding(holds: Holds) -> Self {
        let base = Base::of(holds).await;
        let shop = Self::on(Store::new(base.pool.clone(), 1)).await;
        Self {
            base: Some(base),
            ..shop
        }
    }

    /// On a database that is somebody else's.
    pub async fn on(store: Store) -> Self {
        let pool = store.pool.clone();
        let client = Client::tracked(rocket(figment(), store)).await.unwrap();
        Self {
            client,
            pool,
            base: None,
        }
    }

    pub async fn get(&self, path: &str) -> Answered {
        answered(self.client.get(path.to_owned()).dispatch().await).await
    }

    /// A file that is there.
    pub async fn bytes(&self, path: &str) -> Vec<u8> {
        let answer = self.client.get(path.to_owned()).dispatch().await;
        assert_eq!(answer.status(), Status::Ok, "{path}");
        answer.into_bytes().await.unwrap()
    }

    /// Takes a job in from its file.
    pub async fn take_in(&self, file: Vec<u8>) -> Answered {
        let request = self.client.post("/api/job-file?who=RT");
        let request = request.header(Header::new("Idempotency-Key", fresh_key()));
        answered(request.body(file).dispatch().await).await
    }

    /// A write with its own key, seen at `version` where that matters.
    pub async fn send(
        &self,
        method: rocket::http::Method,
        path: &str,
        version: Option<&Value>,
        body: Value,
    ) -> Answered {
        self.send_with(method, path, &fresh_key(), version, body)
            .await
    }

    pub async fn send_with(
        &self,
        method: rocket::http::Method,
        path: &str,
        key: &str,
        version: Option<&Value>,
        body: Value,
    ) -> Answered {
        if let Some((path, act)) = short::act(path, &body) {
            let post = rocket::http::Method::Post;
            let mut answer = self.sent(post, &path, key, version, act).await;
            if answer.status == Status::Ok {
                answer.body = answer.body["on"]["view"].take();
            }
            return answer;
        }
        self.sent(method, path, key, version, body).await
    }

    /// A write as it is.
    pub async fn sent(
        &self,
        method: rocket::http::Method,
        path: &str,
        key: &str,
        version: Option<&Value>,
        body: Value,
    ) -> Answered {
        let mut request = self
            .client
            .req(method, path.to_owned())
            .header(ContentType::JSON)
            .header(Header::new("Idempotency-Key", key.to_owned()))
            .body(body.to_string());
        if let Some(version) = version {
            request.add_header(Header::new("If-Match", format!("\"{version}\"")));
        }
        answered(request.dispatch().await).await
    }

    pub async fn post(&self, path: &str, version: Option<&Value>, body: Value) -> Answered {
        self.send(rocket::http::Method::Post, path, version, body)
            .await
    }

    /// Takes a demo sheet in and opens a job on it; the address of its checks.
    pub async fn job_on(&self, sheet: &str) -> String {
        let path = demo().join(format!("sheets/{sheet}.json"));
        let text = std::fs::read_to_string(path).unwrap();
        let body = json!({"text": text, "who": "RT"});
        self.post("/api/sheets", None, body).await.ok();
        let card = json!({"sheet_key": sheet, "title": "Box", "customer": "Somebody", "complaint": "", "who": "RT"});
        let opened = self.post("/api/jobs", None, card).await.ok();
        format!("/api/jobs/{}/checks", opened["job_no"])
    }

    /// From here on the main shaft's shim moves the input shaft too, by what ties their covers together.
    pub async fn main_moves_input(&self) {
        let mut sheet: Value = self.get("/api/sheets/tolvane-t5/file").await.ok();
        let checks = sheet["checks"].as_array_mut().unwrap();
        let input = checks.iter_mut().find(|c| c["key"] == "input-float");
        input.unwrap()["moved_by"] = json!([{"check": "main-float", "effect": 1}]);
        let file = json!({"text": sheet.to_string(), "who": "RT"});
        self.post("/api/sheets", None, file).await.ok();
    }

    /// Opens a job and returns the address of its checks.
    pub async fn job(&self) -> String {
        let card = json!({"sheet_key": "tolvane-t5", "title": "Van 3", "customer": "A baker", "complaint": "", "who": "RT"});
        let opened = self.post("/api/jobs", None, card).await.ok();
        format!("/api/jobs/{}/checks", opened["job_no"])
    }

    /// Enters readings and returns the check.
    pub async fn read(&self, check: &str, readings: &[&str]) -> Value {
        let mut last = Value::Null;
        for typed in readings {
            let body = travel(typed, "RT");
            last = self
                .post(&format!("{check}/readings"), None, body)
                .await
                .ok();
        }
        last
    }

    /// Says that a piece of so much, in millimetres, is in the check.
    pub async fn say_fitted(&self, check: &str, typed: &str) {
        let version = self.get(check).await.ok()["version"].clone();
        let body = json!({"typed": typed, "unit": "mm", "who": "RT"});
        let at = format!("{check}/fitted");
        self.send(rocket::http::Method::Put, &at, Some(&version), body)
            .await
            .ok();
    }

    /// Does something to a check that takes the version seen. What is signed without a word has been seen to.
    pub async fn act(&self, check: &str, act: &str, body: Value) -> Answered {
        if act == "sign" && body.get("reason").is_none() {
            self.see_to_all(check).await;
        }
        let version = self.get(check).await.ok()["version"].clone();
        self.post(&format!("{check}/{act}"), Some(&version), body)
            .await
    }

    /// Ticks all that is to be seen to at a check.
    pub async fn see_to_all(&self, check: &str) {
        let view = self.get(check).await.ok();
        for ready in view["ready"].as_array().into_iter().flatten() {
            let tick = json!({"tick": ready["tick"], "done": true, "who": "RT"});
            self.post(&format!("{check}/ticks"), None, tick).await.ok();
        }
    }

    /// How many of a size are in the drawer, and how many of them set aside.
    pub async fn stock(&self, family: &str, thickness_nm: i64) -> (i32, i32) {
        sqlx::query_as(
            "select on_hand, reserved from stock where family_key = $1 and thickness_nm = $2",
        )
        .bind(family)
        .bind(thickness_nm)
        .fetch_one(&self.pool)
        .await
        .unwrap()
    }

    /// Counts a size by hand.
    pub async fn count(&self, family: &str, thickness: &str, on_hand: i32) -> Answered {
        let drawers = self.get("/api/drawers").await.ok();
        let nm: anvil_arithmetic::units::length::Length = thickness.parse().unwrap();
        let version = drawers
            .as_array()
            .unwrap()
            .iter()
            .find(|d| d["key"] == family)
            .and_then(|d| {
                d["sizes"]
                    .as_array()?
                    .iter()
                    .find(|s| s["thickness_nm"] == nm.nm())
            })
            .map_or(json!(0), |s| s["version"].clone());
        let body = json!({"thickness": thickness, "unit": "mm", "on_hand": on_hand, "place": "", "who": "RT"});
        self.send(
            rocket::http::Method::Put,
            &format!("/api/drawers/{family}"),
            Some(&version),
            body,
        )
        .await
    }
}

async fn answered(response: rocket::local::asynchronous::LocalResponse<'_>) -> Answered {
    let status = response.status();
    let kind = response
        .content_type()
        .map(|k| k.to_string())
        .unwrap_or_default();
    let text = response.into_string().await.unwrap_or_default();
    let body = serde_json::from_str(&text).unwrap_or(Value::String(text));
    Answered { status, kind, body }
}
