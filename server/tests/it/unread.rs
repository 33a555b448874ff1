//! A row that holds what this program never writes spoils its own line of a list, and not the page: that is named.

use rocket::http::RawStr;
use rocket::local::asynchronous::LocalResponse;
use serde_json::{Value, json};

use super::house::Shop;

/// A list, and the jobs that it leaves out.
async fn listed(shop: &Shop, path: &str) -> (Value, Vec<Value>) {
    let answer = shop.client.get(path.to_owned()).dispatch().await;
    assert_eq!(answer.status().code, 200, "{path}");
    let left_out = left_out(&answer);
    let body = answer.into_string().await.unwrap();
    (serde_json::from_str(&body).unwrap(), left_out)
}

/// The jobs that an answer leaves out.
fn left_out(answer: &LocalResponse<'_>) -> Vec<Value> {
    let named = answer.headers().get_one("Left-Out");
    named.map_or_else(Vec::new, |named| {
        let named = RawStr::new(named).percent_decode().unwrap();
        let named: Vec<Value> = serde_json::from_str(&named).unwrap();
        named.iter().map(|of| of["job_no"].clone()).collect()
    })
}

#[tokio::test]
async fn a_row_that_cannot_be_read_spoils_its_own_line() {
    let shop = Shop::open().await;
    let open = async |title: &str, for_parts: bool| {
        let card = json!({"sheet_key": "tolvane-t5", "title": title, "customer": "A baker", "variant": "long",
            "for_parts": for_parts, "who": "RT"});
        shop.post("/api/jobs", None, card).await.ok()["job_no"].clone()
    };
    let found = async |job: &Value, state: &str| {
        let act = json!({"act": {"act": "found", "part": "in-3", "state": state}, "who": "RT"});
        shop.post(&format!("/api/jobs/{job}/parts"), None, act)
            .await
            .ok();
    };
    let (sound, spoilt) = (open("Sound", false).await, open("Spoilt", false).await);
    for job in [&sound, &spoilt] {
        found(job, "renewed").await;
        let check = format!("/api/jobs/{job}/checks/input-float");
        shop.say_fitted(&check, "1.10 mm").await;
        shop.read(&check, &["0.24 mm", "0.25 mm", "0.24 mm"]).await;
    }
    let (donor, bad_donor) = (open("Donor", true).await, open("Bad donor", true).await);
    for job in [&donor, &bad_donor] {
        found(job, "reused").await;
        let shelve = json!({"parts": ["in-3"], "place": "shelf 2", "who": "RT"});
        shop.post(&format!("/api/jobs/{job}/shelf"), None, shelve)
            .await
            .ok();
    }
    let donors = format!("/api/jobs/{sound}/donors");
    let parts = format!("/api/jobs/{sound}/parts");
    let names = |list: &Value, of: &str| -> Vec<Value> {
        let all = list.as_array().unwrap().iter();
        all.map(|row| row[of].clone()).collect()
    };
    // What is spoilt, and on which lists that job is named.
    for (spoil, bench, shelf, order) in [
        (
            "update job set intake = '{\"promised\": \"the day after\"}' where job_no = $1",
            true,
            false,
            false,
        ),
        (
            "update job set to_get = '{\"none\": 1}' where job_no = $1",
            true,
            false,
            false,
        ),
        (
            "update job set next_phase = 'asleep' where job_no = $1",
            true,
            false,
            false,
        ),
        (
            "update reading set taken = '{\"way\": \"by the moon\"}' where job_no = $1",
            false,
            false,
            true,
        ),
        (
            "update part_act set said = '{\"act\": \"melted\"}' where job_no = $1",
            false,
            true,
            false,
        ),
        (
            "update job set intake = '7' where job_no = $1",
            false,
            true,
            false,
        ),
    ] {
        let mut tx = shop.pool.begin().await.unwrap();
        let of = if shelf { &bad_donor } else { &spoilt };
        let before = "create table job_before as select * from job; create table reading_before as select * from reading;
             create table act_before as select * from part_act";
        sqlx::raw_sql(before).execute(&mut *tx).await.unwrap();
        let number = i32::try_from(of.as_i64().unwrap()).unwrap();
        let spoiling = sqlx::query(spoil).bind(number);
        spoiling.execute(&mut *tx).await.unwrap();
        tx.commit().await.unwrap();

        let named = |so: bool| if so { vec![of.clone()] } else { Vec::new() };
        let (list, of_bench) = listed(&shop, "/api/jobs").await;
        assert_eq!(of_bench, named(bench), "{spoil}");
        let there = names(&list["jobs"], "title");
        assert!(there.contains(&json!("Sound")), "{spoil}: {there:?}");
        assert_eq!(there.contains(&json!("Spoilt")), !bench, "{spoil}");
        let (list, _) = listed(&shop, "/api/parts").await;
        assert!(names(&list, "job_no").contains(&sound), "{spoil}");
        for path in ["/api/shelf", donors.as_str()] {
            assert_eq!(listed(&shop, path).await.1, named(shelf), "{path}: {spoil}");
        }
        let (list, _) = listed(&shop, "/api/shelf").await;
        assert!(names(&list, "title").contains(&json!("Donor")), "{spoil}");
        let (_, of_order) = listed(&shop, "/api/order").await;
        assert_eq!(!of_order.is_empty(), order, "{spoil}");
        let share = shop.client.post("/api/share").json(&json!({}));
        let shared = share.dispatch().await;
        assert_eq!(left_out(&shared), named(order), "sharing out: {spoil}");
        listed(&shop, &parts).await;

        let back =
            "update job j set intake = b.intake, to_get = b.to_get, next_phase = b.next_phase
               from job_before b where b.job_no = j.job_no;
             update reading r set taken = b.taken from reading_before b
               where b.job_no = r.job_no and b.check_key = r.check_key and b.reading_no = r.reading_no;
             update part_act a set said = b.said from act_before b where b.act_no = a.act_no;
             drop table job_before, reading_before, act_before";
        sqlx::raw_sql(back).execute(&shop.pool).await.unwrap();
    }
}
