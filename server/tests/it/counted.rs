//! What a look costs the database does not grow with the shop: however many boxes there are, an address asks as often.

use std::collections::BTreeMap;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use dry_anvil::api::TABLE;
use serde_json::{Value, json};
use tracing::span::{Attributes, Id, Record};
use tracing::{Event, Metadata, Subscriber};

use super::house::Shop;
use super::house::base::Holds;

/// Counts the statements that are told of on this thread, which is the one that this test's server works on.
#[derive(Clone, Default)]
struct Statements(Arc<AtomicUsize>);

impl Subscriber for Statements {
    fn enabled(&self, of: &Metadata<'_>) -> bool {
        of.target() == "sqlx::query"
    }
    fn new_span(&self, _: &Attributes<'_>) -> Id {
        Id::from_u64(1)
    }
    fn record(&self, _: &Id, _: &Record<'_>) {}
    fn record_follows_from(&self, _: &Id, _: &Id) {}
    fn event(&self, _: &Event<'_>) {
        self.0.fetch_add(1, Ordering::Relaxed);
    }
    fn enter(&self, _: &Id) {}
    fn exit(&self, _: &Id) {}
}

/// How often each address that is looked at asks the database, by its place in the table.
async fn asked(shop: &Shop, counted: &Statements, job: i64) -> BTreeMap<String, usize> {
    let mut found = BTreeMap::new();
    for (_, path) in TABLE.iter().filter(|(verb, _)| *verb == "GET") {
        let filled = path
            .replace("{job_no}", &job.to_string())
            .replace("{check_key}", "input-float")
            .replace("{key}", "tolvane-t5")
            .replace("{family}", "t5-input-shim")
            .replace("{part}", "in-3");
        let query = match path.rsplit('/').next() {
            Some("wear") => "?size=1%20mm",
            Some("width") => "?width=1%20mm",
            Some("changes") => "?from=1&to=1",
            Some("tear-back") => "?part=in-3",
            _ => "",
        };
        let at = format!("/api{filled}{query}");
        // Once for what is kept from then on.
        shop.get(&at).await;
        let before = counted.0.load(Ordering::Relaxed);
        let answer = shop.get(&at).await;
        if answer.status.code == 200 {
            let asked = counted.0.load(Ordering::Relaxed) - before;
            found.insert((*path).to_owned(), asked);
        }
    }
    found
}

/// A box on the bench, or one for parts, of which something was found, and a check of which is measured.
async fn another(shop: &Shop, number: usize, for_parts: bool) -> i64 {
    let card = json!({"sheet_key": "tolvane-t5", "title": format!("Van {number}"), "customer": "A baker",
        "intake": {"complaints": [{"symptom": "leaks"}], "stamped": "T5 0417"}, "for_parts": for_parts, "who": "RT"});
    let opened = shop.post("/api/jobs", None, card).await.ok();
    let job = opened["job_no"].as_i64().unwrap();
    for (part, state) in [("in-3", "reused"), ("main-3", "renewed")] {
        let act = json!({"act": {"act": "found", "part": part, "state": state}, "who": "RT"});
        let path = format!("/api/jobs/{job}/parts");
        shop.post(&path, None, act).await.ok();
    }
    if for_parts {
        let shelf = json!({"place": "bin 2", "who": "RT"});
        let path = format!("/api/jobs/{job}/shelf");
        shop.post(&path, None, shelf).await.ok();
    } else {
        let check = format!("/api/jobs/{job}/checks/input-float");
        shop.say_fitted(&check, "1.00").await;
        shop.read(&check, &["0.35", "0.36", "0.35"]).await;
        let step = json!({"act": {"act": "done", "step": "clean"}, "who": "RT"});
        let path = format!("/api/jobs/{job}/build");
        shop.post(&path, None, step).await;
    }
    job
}

#[tokio::test]
async fn however_many_boxes_there_are_an_address_asks_as_often() {
    let counted = Statements::default();
    // Where there is only one listener, `tracing` asks the thread that meets an event first whether anybody listens, and
    // other tests have threads of their own.
    let _second = tracing::Dispatch::new(Statements::default());
    let _told = tracing::subscriber::set_default(counted.clone());
    let shop = Shop::holding(Holds::SmallShop).await;
    let job = another(&shop, 0, false).await;
    another(&shop, 1, true).await;
    let few = asked(&shop, &counted, job).await;
    assert!(
        few.len() > 25 && few.values().sum::<usize>() > 50,
        "{few:?}"
    );
    for number in 2..10 {
        another(&shop, number, number % 2 == 0).await;
    }
    let many = asked(&shop, &counted, job).await;
    let grown: Vec<(&String, usize, Value)> = many
        .iter()
        .filter(|(path, n)| few.get(*path).is_some_and(|few| *n > few))
        .map(|(path, n)| (path, few[path], json!(n)))
        .collect();
    assert!(
        grown.is_empty(),
        "asks more often in a larger shop: {grown:?}"
    );
}
