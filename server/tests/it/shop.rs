//! Jobs, drawers, sheets, calculators and the guard over HTTP against a real `PostgreSQL`.

use crate::house::base::{Base, Holds};
use crate::house::{Shop, demo};
use dry_anvil::db::Store;
use rocket::http::{ContentType, Header, Method, Status};
use serde_json::{Value, json};

#[tokio::test]
async fn the_demo_loads_whole_and_only_once() {
    let base = Base::of(Holds::Schema).await;
    let pool = base.pool.clone();
    let store = Store::new(pool.clone(), 1);
    assert!(dry_anvil::load::shop(&store, &demo()).await.unwrap());
    assert!(!dry_anvil::load::shop(&store, &demo()).await.unwrap());
    let count = |sql: &'static str| sqlx::query_scalar::<_, i64>(sql).fetch_one(&pool);
    assert_eq!(
        count("select count(*) from job where finished_at is null")
            .await
            .unwrap(),
        13
    );
    assert_eq!(
        count("select count(*) from job where finished_at is not null and signed = checks")
            .await
            .unwrap(),
        37
    );
    assert!(
        count("select count(*) from setting where total_nm > 0 and state = 'fitted'")
            .await
            .unwrap()
            > 150
    );
    let client = rocket::local::asynchronous::Client::tracked(dry_anvil::rocket(
        dry_anvil::figment(),
        store,
    ))
    .await
    .unwrap();
    let stuck = client.get("/api/jobs/34/checks/diff-side").dispatch().await;
    let stuck: Value = serde_json::from_str(&stuck.into_string().await.unwrap()).unwrap();
    assert!(
        stuck["ways_out"]["from_nm"].is_number(),
        "nothing on hand fits the side gear of job 34"
    );
}

#[tokio::test]
async fn jobs_are_found_however_their_accents_are_typed() {
    let shop = Shop::open().await;
    for customer in ["Bäckerei Łukasz", "Søren & Zoë", "A_B 100%"] {
        let card =
            json!({"sheet_key": "tolvane-t5", "title": "Van", "customer": customer, "who": "RT"});
        shop.post("/api/jobs", None, card).await.ok();
    }
    // Composed, decomposed, in capitals, and without any; what a pattern would mean is meant as it is typed.
    for (search, found) in [
        ("backerei", vec![1]),
        ("BA\u{308}CKEREI lukasz", vec![1]),
        ("b%C3%A4cker", vec![1]),
        ("soren zoe", vec![2]),
        ("S%C3%98REN", vec![2]),
        ("a_b", vec![3]),
        ("100%25", vec![3]),
        ("a%25b", vec![]),
        ("van", vec![3, 2, 1]),
    ] {
        let path = format!(
            "/api/jobs?search={}",
            search.replace(' ', "%20").replace('\u{308}', "%CC%88")
        );
        let jobs = shop.get(&path).await.ok();
        let numbers: Vec<i64> = jobs["jobs"]
            .as_array()
            .unwrap()
            .iter()
            .map(|j| j["job_no"].as_i64().unwrap())
            .collect();
        assert_eq!(numbers, found, "{search}");
    }
}

#[tokio::test]
async fn jobs_are_listed_searched_and_filtered_and_handed_over() {
    let shop = Shop::open().await;
    for (field, card) in [
        (
            "title",
            json!({"sheet_key": "tolvane-t5", "title": " ", "customer": "A", "who": "RT"}),
        ),
        (
            "customer",
            json!({"sheet_key": "tolvane-t5", "title": "A", "customer": "", "who": "RT"}),
        ),
        (
            "sheet_key",
            json!({"sheet_key": "none", "title": "A", "customer": "B", "who": "RT"}),
        ),
        (
            "who",
            json!({"sheet_key": "tolvane-t5", "title": "A", "customer": "B", "who": ""}),
        ),
    ] {
        assert_eq!(
            shop.post("/api/jobs", None, card)
                .await
                .refused(422, "bad-field")["field"],
            field
        );
    }
    for _ in 0..43 {
        shop.job().await;
    }
    let first = shop.get("/api/jobs").await.ok();
    assert_eq!(
        (first["jobs"].as_array().unwrap().len(), &first["more"]),
        (40, &json!(true))
    );
    let rest = shop.get("/api/jobs?before=4").await.ok();
    assert_eq!(
        (rest["jobs"].as_array().unwrap().len(), &rest["more"]),
        (3, &json!(false))
    );
    let found = |list: Value| list["jobs"].as_array().unwrap().len();
    assert_eq!(found(shop.get("/api/jobs?search=43%20baker").await.ok()), 1);
    assert_eq!(found(shop.get("/api/jobs?search=100%25").await.ok()), 0);
    // The job of that very number first, and on no other page again.
    let numbers = |list: Value| {
        let jobs = list["jobs"].as_array().unwrap().clone();
        let numbers = jobs.iter().map(|j| j["job_no"].as_i64().unwrap());
        numbers.collect::<Vec<_>>()
    };
    let searched = async |rest: &str| shop.get(&format!("/api/jobs?search={rest}")).await.ok();
    assert_eq!(
        numbers(searched("4").await),
        [4, 43, 42, 41, 40, 34, 24, 14]
    );
    assert_eq!(
        numbers(searched("4&before=34").await),
        [24, 14],
        "and not 4 again"
    );
    assert_eq!(
        numbers(searched("4%20baker").await)[0],
        43,
        "words are no number"
    );
    assert_eq!(
        numbers(searched("4&finished=true").await),
        [0; 0],
        "nor is an open job finished"
    );
    assert_eq!(found(shop.get("/api/jobs?phase=sign").await.ok()), 0);

    let job = "/api/jobs/1";
    let open = shop.get(job).await.ok();
    assert_eq!(
        (
            open["next_check"].as_str(),
            open["checks"].as_array().unwrap().len()
        ),
        (Some("second-side"), 8)
    );
    let early = shop
        .post(
            "/api/jobs/1/hand-over",
            Some(&open["version"]),
            json!({"who": "RT"}),
        )
        .await;
    early.refused(409, "checks-open");
    for check in open["checks"].as_array().unwrap() {
        let path = format!("{job}/checks/{}", check["check_key"].as_str().unwrap());
        shop.read(&path, &["0.2", "0.2"]).await;
        shop.act(
            &path,
            "sign",
            json!({"who": "OB", "reason": "a trial of the hand-over"}),
        )
        .await
        .ok();
    }
    let done = shop.get(job).await.ok();
    assert_eq!(done["next_phase"], "hand_over");
    // None of its steps was done, no gear tried, no part looked at: that is said, and wants a word of why.
    let unseen = done["not_seen_to"].as_array().unwrap();
    assert_eq!(unseen.len(), 3, "{unseen:?}");
    let hand_over = |reason: &str| {
        let body = json!({"who": "OB", "reason": reason});
        shop.post("/api/jobs/1/hand-over", Some(&done["version"]), body)
    };
    let silent = hand_over(" \u{200b}").await.refused(422, "bad-field");
    assert_eq!(silent["field"], "reason");
    let title = silent["title"].as_str().unwrap();
    assert!(
        unseen.iter().all(|u| title.contains(u.as_str().unwrap())),
        "{title}"
    );
    let over = hand_over("A trial of the hand-over").await.ok();
    assert_eq!(over["finished_by"], "OB");
    assert_eq!(over["marks"][0]["reason"], "A trial of the hand-over");
    assert_eq!(found(shop.get("/api/jobs?finished=true").await.ok()), 1);
    // Reopening a check takes the job back.
    shop.act(
        &format!("{job}/checks/second-side"),
        "reopen",
        json!({"who": "RT", "reason": "came back noisy"}),
    )
    .await
    .ok();
    let back = shop.get(job).await.ok();
    assert_eq!(
        (back["finished_at"].is_null(), back["next_check"].as_str()),
        (true, Some("second-side"))
    );
    let report = shop.get("/api/jobs/1/report").await.ok();
    assert_eq!(
        (
            report["checks"].as_array().unwrap().len(),
            report["shop"].as_str()
        ),
        (8, Some("Brandreth & Loam"))
    );
}

#[tokio::test]
async fn what_is_not_there_says_so_as_a_problem() {
    let shop = Shop::open().await;
    shop.job().await;
    for path in [
        "/api/jobs/99",
        "/api/jobs/99/checks/main-float",
        "/api/jobs/1/checks/none",
        "/api/sheets/none",
        "/api/nothing",
    ] {
        shop.get(path).await.refused(404, "not-found");
    }
    assert_eq!(shop.get("/healthz").await.status, Status::Ok);
    assert_eq!(shop.get("/readyz").await.status, Status::Ok);
    shop.pool.close().await;
    assert_eq!(shop.get("/readyz").await.status, Status::ServiceUnavailable);
    shop.get("/api/jobs")
        .await
        .refused(503, "database-out-of-reach");
}

#[tokio::test]
async fn only_its_own_pages_are_answered() {
    let shop = Shop::open().await;
    let ask = async |name: &'static str, value: &'static str| {
        let request = shop
            .client
            .post("/api/calc/parse")
            .header(ContentType::JSON)
            .body(r#"{"text":"1 mm"}"#);
        let request = match name {
            "Host" => shop
                .client
                .get("/api/jobs")
                .header(Header::new(name, value)),
            _ => request.header(Header::new(name, value)),
        };
        request.dispatch().await.status().code
    };
    let port = dry_anvil::figment().extract_inner::<u16>("port").unwrap();
    assert_eq!(port, 7410, "the addresses below are of this port");
    for (name, value, status) in [
        ("Host", "127.0.0.1:7410", 200),
        ("Host", "localhost:7410", 200),
        ("Host", "localhost:7411", 403),
        ("Host", "rebound.example:7410", 403),
        ("Host", "127.0.0.1.example:7410", 403),
        ("Origin", "http://localhost:7410", 200),
        ("Origin", "http://elsewhere.example", 403),
        ("Origin", "https://localhost:7410", 403),
        ("Origin", "null", 403),
        ("Sec-Fetch-Site", "cross-site", 403),
        ("Sec-Fetch-Site", "same-origin", 200),
    ] {
        assert_eq!(ask(name, value).await, status, "{name}: {value}");
    }
}

#[tokio::test]
async fn drawers_go_out_and_in_as_csv() {
    let shop = Shop::open().await;
    let csv = shop.get("/api/drawers.csv").await.ok();
    let csv = csv.as_str().unwrap().to_owned();
    let import = async |text: String| {
        shop.post(
            "/api/drawers/import",
            None,
            json!({"text": text, "who": "RT"}),
        )
        .await
    };
    import(csv.clone()).await.ok();
    assert_eq!(shop.get("/api/drawers.csv").await.ok(), json!(csv));
    let european =
        "\u{feff}family;thickness;on_hand;place\r\nt5-main-shim;1,08 mm;7;A2\r\n".to_owned();
    assert_eq!(import(european).await.ok()["rows"], 1);
    assert_eq!(shop.stock("t5-main-shim", 1_080_000).await, (7, 0));
    let faulty = "family,thickness,on_hand\nt5-main-shim,1.08,3\nt5-main-shim,1.12 mm,-1\n,1.16 mm,x\nt5-main-shim,1.20 mm,1\nt5-main-shim,1200 µm,2\n";
    let problem = import(faulty.to_owned()).await.refused(422, "faulty-file");
    let places: Vec<_> = problem["faults"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| f["place"].as_str().unwrap())
        .collect();
    assert_eq!(
        places,
        [
            "line 2, thickness",
            "line 3, on_hand",
            "line 4, family",
            "line 4, on_hand",
            "line 6, thickness"
        ]
    );
    assert_eq!(shop.stock("t5-main-shim", 1_080_000).await, (7, 0));
    let strange = import("family,thickness,on_hand\nnone,1 mm,3\n".to_owned()).await;
    assert_eq!(strange.refused(422, "bad-field")["field"], "family");
    // A new size, a stale count, a count that is no count.
    shop.count("t5-main-shim", "1.99 mm", 4).await.ok();
    let body = json!({"thickness": "1.99 mm", "unit": "mm", "on_hand": 5, "who": "RT"});
    shop.send(
        Method::Put,
        "/api/drawers/t5-main-shim",
        Some(&json!(0)),
        body,
    )
    .await
    .refused(412, "changed-meanwhile");
    assert_eq!(
        shop.count("t5-main-shim", "1.99 mm", -1)
            .await
            .refused(422, "bad-field")["field"],
        "on_hand"
    );
    let moves = shop.get("/api/drawers/t5-main-shim/moves").await.ok();
    assert_eq!(
        (
            moves[0]["on_hand_was"].as_i64(),
            moves[0]["on_hand"].as_i64()
        ),
        (Some(0), Some(4))
    );
}

#[tokio::test]
async fn sheets_go_out_and_in_and_a_job_keeps_its_revision() {
    let shop = Shop::open().await;
    let job = shop.job().await;
    let take_in = async |sheet: &Value| {
        shop.post(
            "/api/sheets",
            None,
            json!({"text": sheet.to_string(), "who": "RT"}),
        )
        .await
    };
    let mut sheet = shop.get("/api/sheets/tolvane-t5/file").await.ok();
    assert_eq!(take_in(&sheet).await.ok()["revision"], 1);
    sheet["checks"][0]["window"]["high"] = json!("0.30 mm");
    assert_eq!(take_in(&sheet).await.ok()["revision"], 2);
    assert_eq!(
        shop.get(&format!("{job}/second-side")).await.ok()["window"]["high_nm"],
        340_000
    );
    let newer = shop.job().await;
    assert_eq!(
        shop.get(&format!("{newer}/second-side")).await.ok()["window"]["high_nm"],
        300_000
    );

    sheet["version"] = json!(2);
    let problem = take_in(&sheet).await.refused(422, "faulty-file");
    assert_eq!(problem["faults"][0]["place"], "/version");
    let huge = json!({"text": " ".repeat(3 << 20), "who": "RT"});
    shop.post("/api/sheets", None, huge)
        .await
        .refused(413, "too-large");
}

#[tokio::test]
async fn the_calculators_answer_without_a_job() {
    let shop = Shop::open().await;
    let ask =
        async |path: &str, body: Value| shop.post(&format!("/api/calc/{path}"), None, body).await;
    assert_eq!(
        ask("parse", json!({"text": "6 1/2 thou"})).await.ok()["nm"],
        165_100
    );
    assert_eq!(
        ask("parse", json!({"text": "6 1/2"}))
            .await
            .refused(422, "bad-field")["field"],
        "text"
    );
    let gauge = json!({"resolution_nm": 10_000, "permissible_error_nm": 0});
    let entry = |typed: &str| json!({"kind": "travel", "travel": typed});
    let travels = json!({"way": "dial_travel", "unit": "mm", "gauge": gauge,
        "entries": [entry("0.310"), entry("0.316"), entry("310 um")]});
    let estimate = ask("measure", travels).await.ok()["estimate"].clone();
    assert_eq!(estimate["clearance_nm"], 312_000.0);
    let window = json!({"low_nm": 100_000, "high_nm": 180_000});
    let verdict = ask("judge", json!({"estimate": estimate, "window": window}))
        .await
        .ok();
    assert_eq!(verdict["call"], "loose");
    let aim = json!({"from_nm": 130_000.0, "to_nm": 130_000.0});
    let wanted = ask(
        "wanted",
        json!({"clearance_nm": 312_000.0, "aim": aim, "fitted_nm": 1_300_000, "effect": "closes"}),
    )
    .await
    .ok();
    assert_eq!(wanted["thickness_nm"], 1_482_000.0);
    let stock =
        json!([{"thickness_nm": 1_480_000, "u_nm": 0.0, "quantity": 1, "source": "on_hand"}]);
    let mut choose = json!({"clearance_nm": 312_000.0, "u_nm": 4_000.0, "fitted_nm": 1_300_000, "effect": "closes",
        "window": window, "aim": aim, "floor": 0.95, "most_pieces": 1, "stock": stock});
    assert_eq!(
        ask("choose", choose.clone()).await.ok()["ranked"][0]["predicted_nm"],
        132_000.0
    );
    choose["floor"] = json!(1.5);
    assert_eq!(
        ask("choose", choose).await.refused(422, "bad-field")["field"],
        "floor"
    );
    let upside_down = json!({"estimate": estimate, "window": {"low_nm": 2, "high_nm": 1}});
    assert_eq!(
        ask("judge", upside_down).await.refused(422, "bad-field")["field"],
        "window"
    );
    shop.post("/api/calc/parse", None, json!("no object"))
        .await
        .refused(422, "bad-request");
}

#[tokio::test]
async fn a_chart_is_refused_by_row_and_read_beside_the_calculation() {
    let shop = Shop::open().await;
    let path = "/api/sheets/tolvane-t5/checks/diff-side/chart";
    let given = |rows: &str, step: &str, measured: &str| json!({"measured": measured, "step": step, "rows": rows, "unit": "mm", "who": "RT"});
    let put = |body: Value| shop.send(Method::Put, path, None, body);
    // Float with no washer in: 1.92 + 0.17 is the middle of the row of 1.92, and so on.
    let sound = "from,to,piece\n1.955,2.045,1.83\n2.045,2.135,1.92\n2.135,2.225,2.01";
    let faults = put(given(
        "1.955,2.045,1.83\n2.06,2.135,1.92\n2.2,2.1,2.01",
        "0.005",
        "Float",
    ))
    .await;
    let faults = faults.refused(422, "faulty-file");
    // Every fault at once: a hole before the second row, and a third that is upside down.
    let places: Vec<_> = faults["faults"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| &f["place"])
        .collect();
    assert_eq!(places, ["row 2", "row 3"]);
    let hole = put(given("1.955,2.045,1.83\n2.06,2.135,1.92", "0.005", "Float")).await;
    assert_eq!(
        hole.refused(422, "faulty-file")["faults"][0]["place"],
        "row 2"
    );
    for (field, body) in [
        ("measured", given(sound, "0.005", " ")),
        ("step", given(sound, "five", "Float")),
    ] {
        assert_eq!(put(body).await.refused(422, "bad-field")["field"], field);
    }
    let kept = put(given(sound, "0.005", "Float with no washer in"))
        .await
        .ok();
    assert_eq!(kept["revision"], 2);
    let sheet = shop.get("/api/sheets/tolvane-t5").await.ok();
    let checks = sheet["checks"].as_array().unwrap();
    let chart = &checks.iter().find(|c| c["key"] == "diff-side").unwrap()["chart"];
    assert_eq!(chart["rows"].as_array().unwrap().len(), 3);

    let job = shop.job().await;
    let check = format!("{job}/diff-side");
    let version = shop.get(&check).await.ok()["version"].clone();
    let body = json!({"typed": "1.74 mm", "unit": "mm", "who": "RT"});
    shop.send(
        Method::Put,
        &format!("{check}/fitted"),
        Some(&version),
        body,
    )
    .await
    .ok();
    shop.count("t5-side-washer", "1.92 mm", 3).await;
    let says = shop.read(&check, &["0.36", "0.36", "0.36"]).await["chart"].clone();
    assert!((says["depth_nm"].as_f64().unwrap() - 2_100_000.0).abs() < 1.0);
    assert_eq!(
        says["answer"]["row"],
        json!({"row": 2, "piece_nm": 1_920_000, "piece_to_nm": 1_920_000})
    );
    assert_eq!(
        (&says["agrees"], &says["choice"]["predicted_nm"]),
        (&json!(true), &json!(180_000.0))
    );
    // With none of that size left, the calculation goes another way and the chart does not know.
    shop.count("t5-side-washer", "1.92 mm", 0).await;
    shop.count("t5-side-washer", "2.01 mm", 0).await;
    let now = shop.get(&check).await.ok();
    assert_eq!(now["chart"]["choice"]["source"], "to_order");
    let deep = shop
        .read(&check, &["3.9", "3.9", "3.9", "3.9", "3.9", "3.9", "3.9"])
        .await;
    assert_eq!(deep["chart"]["answer"], "above");
    assert_eq!(deep["chart"]["agrees"], false);
    // No rows take the chart off again.
    assert_eq!(put(given("", "", "")).await.ok()["revision"], 3);
}

/// What no database keeps is refused at its field, wherever it stands; what shows nothing is empty.
#[tokio::test]
async fn texts_that_cannot_be_kept_or_seen() {
    let shop = Shop::open().await;
    let card = |title: &str| json!({"sheet_key": "tolvane-t5", "title": title, "customer": "A baker", "who": "RT"});
    let open = async |title: &str| shop.post("/api/jobs", None, card(title)).await;
    assert_eq!(
        open("Van\0 3").await.refused(422, "bad-field")["field"],
        "title"
    );
    for nothing in ["\u{200b}", " \u{2060}\u{feff} ", "\u{ad}"] {
        assert_eq!(
            open(nothing).await.refused(422, "bad-field")["field"],
            "title"
        );
    }
    let opened = open("\u{200b}Van 3\u{200b}").await.ok();
    let job = format!("/api/jobs/{}", opened["job_no"]);
    assert_eq!(shop.get(&job).await.ok()["title"], "Van 3");
    let check = format!("{job}/checks/second-side");
    let who = json!({"way": "dial_travel", "entry": {"kind": "travel", "travel": "0.2"}, "unit": "mm", "who": "R\0"});
    assert_eq!(
        shop.post(&format!("{check}/readings"), None, who)
            .await
            .refused(422, "bad-field")["field"],
        "who"
    );
    let deep = json!({"way": "dial_travel", "entry": {"kind": "travel", "travel": "0.\0"}, "unit": "mm", "who": "RT"});
    assert_eq!(
        shop.post(&format!("{check}/readings"), None, deep)
            .await
            .refused(422, "bad-field")["field"],
        "entry/travel"
    );
    let act = json!({"act": "take", "lines": [{"family_key": "t5-\0", "thickness_nm": 1, "count": 1}], "who": "RT"});
    let refused = shop
        .post("/api/drawers/acts", None, act)
        .await
        .refused(422, "bad-field");
    assert_eq!(refused["field"], "lines/0/family_key");
    for path in [
        "/api/jobs?search=a%00b",
        "/api/jobs/1/checks/a%00",
        "/api/sheets/%00/file",
        "/%00",
    ] {
        assert_eq!(
            shop.get(path).await.refused(422, "bad-field")["field"],
            "address",
            "{path}"
        );
    }
    // Within a sheet it is a fault like others, with its place.
    let mut sheet = shop.get("/api/sheets/tolvane-t5/file").await.ok();
    sheet["name"] = json!("T\0");
    let file = json!({"text": sheet.to_string(), "who": "RT"});
    let refused = shop
        .post("/api/sheets", None, file)
        .await
        .refused(422, "faulty-file");
    assert_eq!(refused["faults"][0]["place"], "/name");
    // What is missing is named.
    let refused = shop
        .post("/api/jobs", None, json!({"title": "Van"}))
        .await
        .refused(422, "bad-request");
    assert!(
        refused["title"]
            .as_str()
            .unwrap()
            .contains("missing field `sheet_key`"),
        "{refused}"
    );
}
