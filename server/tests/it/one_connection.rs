//! Who looks holds one connection: every address answers where there is only one, or a few who look at once would wait for
//! each other until all of them give up.

use std::time::Duration;

use dry_anvil::api::TABLE;
use dry_anvil::db::Store;
use dry_anvil::http::serving::kept;
use serde_json::Value;
use sqlx::PgPool;
use sqlx::postgres::PgPoolOptions;

use crate::house::Shop;
use crate::house::base::{Base, Holds};

/// What stands in an address, as it is in the demo, for each job that has something there.
async fn places(pool: &PgPool) -> Vec<Vec<(&'static str, String)>> {
    let rows: Vec<(i32, String, String, String, Option<i64>)> = sqlx::query_as(
        "select j.job_no, c.check_key, j.sheet_key, s.family_key, max(p.picture_no)
         from job j join job_check c using (shop_id, job_no)
         join lateral (select family_key from stock order by family_key limit 1) s on true
         left join picture p using (shop_id, job_no)
         group by 1, 2, 3, 4 order by max(p.picture_no) desc nulls last, j.job_no desc, c.check_key limit 40",
    )
    .fetch_all(pool)
    .await
    .unwrap();
    rows.into_iter()
        .map(|(job, check, sheet, family, picture)| {
            vec![
                ("{job_no}", job.to_string()),
                ("{check_key}", check),
                ("{key}", sheet),
                ("{family}", family),
                ("{picture_no}", picture.unwrap_or(0).to_string()),
            ]
        })
        .collect()
}

#[tokio::test]
async fn every_look_does_with_one() {
    let base = Base::of(Holds::Demo).await;
    let places = places(&base.pool).await;
    let one = || {
        PgPoolOptions::new()
            .max_connections(1)
            .acquire_timeout(Duration::from_secs(2))
            .connect_lazy_with((*base.pool.connect_options()).clone())
    };
    // As it is served: who looks and who writes have connections of their own.
    let store = Store {
        writing: one(),
        ..Store::new(one(), 1)
    };
    let shop = Shop::on(store).await;
    let looks = TABLE.iter().filter(|(verb, _)| *verb == "GET");
    let mut answered = 0;
    for (_, path) in looks {
        let mut codes = Vec::new();
        for place in &places {
            let filled = place.iter().fold((*path).to_owned(), |at, (name, value)| {
                at.replace(name, value)
            });
            let Some(filled) = part_of(&shop, &filled, &place[0].1).await else {
                continue;
            };
            let asked = match filled.rsplit('/').next() {
                Some("wear") => "?size=1%20mm",
                Some("width") => "?width=1%20mm",
                Some("changes") => "?from=1&to=1",
                _ => "",
            };
            let answer = shop.get(&format!("/api{filled}{asked}")).await;
            assert!(answer.status.code < 500, "{filled}: {}", answer.body);
            codes.push(answer.status.code);
            // One that has something there is enough; once more, for what keeps a thread each time.
            if answer.status.code == 200 {
                shop.get(&format!("/api{filled}{asked}")).await;
                break;
            }
        }
        assert!(!codes.is_empty(), "{path} was not looked at");
        answered += usize::from(codes.contains(&200));
    }
    assert!(answered > 35, "only {answered} had something to tell");
    // And nobody else waits for long meanwhile: a thread that serves is not kept by what takes its time.
    let kept = kept().into_iter().filter(|(_, times)| *times > 2.0);
    assert_eq!(kept.collect::<Vec<_>>(), []);
}

/// The address with a part of the job's box, where it asks for one; none where the box has no parts.
async fn part_of(shop: &Shop, at: &str, job: &str) -> Option<String> {
    if !at.contains("{part}") {
        return Some(at.to_owned());
    }
    let parts: Value = shop.get(&format!("/api/jobs/{job}/parts")).await.body;
    let first = parts["parts"].as_array()?.first()?["key"].as_str()?;
    Some(at.replace("{part}", first))
}
