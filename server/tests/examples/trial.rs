//! Trials under load and while things are killed; the scripts beside say how they are run.
//!
//! - `trial fight WRITES HOST:PORT…`: eight clients press whatever moves pieces of one drawer, and take readings beside it,
//!   at all the servers in turn.
//! - `trial steady SECONDS HOST:PORT`: four clients take readings, each of another size, and send one again under its key
//!   until it is answered.
//!
//! Both end with what they found: how often each status came, and whether what was acknowledged is there once. The
//! database is asked by `DATABASE_URL`.

use std::collections::BTreeMap;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use reqwest::{Client, Method};
use serde_json::{Value, json};
use sqlx::PgPool;
use tokio::task::JoinSet;

const FIGHTERS: usize = 8;
const STEADY: usize = 4;
/// A round of readings at a bench is short; so many, and the next job.
const READINGS_A_JOB: usize = 12;
const SHIMS: &str = "t5-input-shim";
const SIZES: [i64; 3] = [1_250_000, 1_400_000, 1_550_000];

#[tokio::main]
async fn main() {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let words: Vec<&str> = words.iter().map(String::as_str).collect();
    let url = std::env::var("DATABASE_URL").expect("DATABASE_URL is set");
    match words.as_slice() {
        ["fight", writes, at @ ..] if !at.is_empty() => {
            let writes = writes.parse().expect("WRITES is a whole number");
            fight(&url, writes, at).await;
        }
        ["steady", seconds, at] => {
            let seconds = seconds.parse().expect("SECONDS is a whole number");
            steady(&url, Duration::from_secs(seconds), at).await;
        }
        _ => panic!("usage: trial fight WRITES HOST:PORT… | trial steady SECONDS HOST:PORT"),
    }
}

/// Whoever presses.
#[derive(Clone)]
struct Hand {
    client: Client,
    at: String,
}

impl Hand {
    fn at(at: &str) -> Self {
        let client = Client::builder().timeout(Duration::from_secs(30));
        Self {
            client: client.build().expect("a client"),
            at: format!("http://{at}/api"),
        }
    }

    /// A write under its key, seen at `version` where that matters; 0 where nothing was answered.
    async fn send(
        &self,
        method: Method,
        path: &str,
        key: &str,
        version: Option<&Value>,
        body: &Value,
    ) -> (u16, Value) {
        let mut request = self
            .client
            .request(method, format!("{}{path}", self.at))
            .header("Idempotency-Key", key)
            .json(body);
        if let Some(version) = version {
            request = request.header("If-Match", format!("\"{version}\""));
        }
        let Ok(answer) = request.send().await else {
            return (0, Value::Null);
        };
        let status = answer.status().as_u16();
        answer
            .json()
            .await
            .map_or((status, Value::Null), |body| (status, body))
    }

    async fn get(&self, path: &str) -> Option<Value> {
        let answer = self
            .client
            .get(format!("{}{path}", self.at))
            .send()
            .await
            .ok()?;
        answer.json().await.ok()
    }

    /// Sends one write until it is answered and not turned away for the moment; so a browser does.
    async fn send_until_answered(&self, path: &str, key: &str, body: &Value) -> (u16, Value) {
        loop {
            let (status, answer) = self.send(Method::POST, path, key, None, body).await;
            if status != 0 && status < 500 {
                return (status, answer);
            }
            tokio::time::sleep(Duration::from_millis(150)).await;
        }
    }

    async fn open_job(&self, key: &str) -> i64 {
        let card = json!({"sheet_key": "tolvane-t5", "title": "Van", "customer": "A baker", "complaint": "", "who": "RT"});
        let (status, opened) = self.send_until_answered("/jobs", key, &card).await;
        assert_eq!(status, 200, "{opened}");
        opened["job_no"].as_i64().expect("a number")
    }
}

/// Pseudo-random numbers (Park and Miller), seeded, so that a run can be done again.
struct Dice(u64);

impl Dice {
    fn below(&mut self, n: usize) -> usize {
        self.0 = self.0 * 48_271 % 2_147_483_647;
        usize::try_from(self.0).unwrap_or(0) % n
    }
}

/// A name for this run in its keys.
fn run() -> u32 {
    std::process::id()
}

fn travel(typed: &str) -> Value {
    json!({"way": "dial_travel", "entry": {"kind": "travel", "travel": typed}, "unit": "mm", "who": "RT"})
}

type Counts = BTreeMap<(String, u16), usize>;

async fn fight(url: &str, writes: usize, servers: &[&str]) {
    let hands: Vec<Hand> = servers.iter().map(|at| Hand::at(at)).collect();
    let mut jobs = Vec::new();
    for number in 0..FIGHTERS + 2 {
        let job = hands[0]
            .open_job(&format!("fight-{}-job-{number}", run()))
            .await;
        let check = format!("/jobs/{job}/checks/input-float");
        let version = hands[0].get(&check).await.expect("the check")["version"].clone();
        let fitted = json!({"typed": "1.10", "unit": "mm", "who": "RT"});
        let key = format!("fight-{}-fitted-{number}", run());
        hands[0]
            .send(
                Method::PUT,
                &format!("{check}/fitted"),
                &key,
                Some(&version),
                &fitted,
            )
            .await;
        jobs.push(job);
    }
    let begun = Instant::now();
    let left = std::sync::Arc::new(AtomicUsize::new(writes));
    let mut fighters = JoinSet::new();
    for number in 0..FIGHTERS {
        let (hands, jobs, left) = (hands.clone(), jobs.clone(), std::sync::Arc::clone(&left));
        fighters.spawn(async move { fighter(number, &hands, &jobs, &left).await });
    }
    let mut counts = Counts::new();
    let mut acknowledged = Vec::new();
    while let Some(done) = fighters.join_next().await {
        let (own, keys) = done.expect("a fighter does not fail");
        for (what, count) in own {
            *counts.entry(what).or_default() += count;
        }
        acknowledged.extend(keys);
    }
    println!(
        "{writes} writes by {FIGHTERS} clients at {} server(s) in {:.0} s:",
        servers.len(),
        begun.elapsed().as_secs_f64()
    );
    let mut faults = 0;
    for ((act, status), count) in &counts {
        println!("  {act:>8} {status}: {count}");
        faults += if *status == 0 || *status >= 500 {
            *count
        } else {
            0
        };
    }
    println!("  not answered, or a fault: {faults}");
    let pool = PgPool::connect(url).await.expect("the database answers");
    once_each(&pool, &acknowledged).await;
    drawers_agree(&pool).await;
    assert_eq!(faults, 0, "nobody is turned away with a fault");
}

async fn fighter(
    number: usize,
    hands: &[Hand],
    jobs: &[i64],
    left: &AtomicUsize,
) -> (Counts, Vec<String>) {
    let mut dice = Dice(7_919 * (number as u64 + 1));
    let (mut counts, mut acknowledged) = (Counts::new(), Vec::new());
    let mut turn = 0;
    while left
        .try_update(Ordering::Relaxed, Ordering::Relaxed, |n| n.checked_sub(1))
        .is_ok()
    {
        turn += 1;
        let hand = &hands[(number + turn) % hands.len()];
        let job = jobs[dice.below(jobs.len())];
        let check = format!("/jobs/{job}/checks/input-float");
        let version = match hand.get(&check).await {
            Some(view) => view["version"].clone(),
            None => Value::Null,
        };
        let piece = json!({"pieces": [{"thickness_nm": SIZES[dice.below(SIZES.len())], "count": 1}], "who": "RT"});
        let who = json!({"who": "RT"});
        let size = SIZES[dice.below(SIZES.len())];
        let (act, method, path, seen, body) = match dice.below(12) {
            0 | 1 => (
                "choose",
                Method::POST,
                format!("{check}/choose"),
                Some(version),
                piece,
            ),
            2 => (
                "let-go",
                Method::POST,
                format!("{check}/let-go"),
                Some(version),
                who,
            ),
            3 | 4 => (
                "fit",
                Method::POST,
                format!("{check}/fit"),
                Some(version),
                json!({"put_back": true, "who": "RT"}),
            ),
            5 | 6 => (
                "read",
                Method::POST,
                format!("{check}/readings"),
                None,
                travel(["0.24", "0.25", "0.23"][dice.below(3)]),
            ),
            7 => (
                "sign",
                Method::POST,
                format!("{check}/sign"),
                Some(version),
                json!({"reason": "a trial", "who": "OB"}),
            ),
            8 => (
                "reopen",
                Method::POST,
                format!("{check}/reopen"),
                Some(version),
                json!({"reason": "a trial", "who": "OB"}),
            ),
            9 => {
                let seen = count_seen(hand, size).await;
                let body = json!({"thickness": format!("{} um", size / 1_000), "unit": "mm", "on_hand": dice.below(6), "place": "", "who": "RT"});
                (
                    "count",
                    Method::PUT,
                    format!("/drawers/{SHIMS}"),
                    Some(seen),
                    body,
                )
            }
            10 => {
                let act = ["order", "come"][dice.below(2)];
                let body = json!({"act": act, "lines": [{"family_key": SHIMS, "thickness_nm": size, "count": 1}], "who": "RT"});
                ("order", Method::POST, "/drawers/acts".into(), None, body)
            }
            _ => {
                let choices: Vec<Value> = together(hand, &mut dice, jobs).await;
                (
                    "together",
                    Method::POST,
                    "/share/choose".into(),
                    None,
                    json!({"choices": choices, "who": "RT"}),
                )
            }
        };
        let key = format!("fight-{}-{number}-{turn}", run());
        let (status, _) = hand.send(method, &path, &key, seen.as_ref(), &body).await;
        *counts.entry((act.to_owned(), status)).or_default() += 1;
        if (200..300).contains(&status) {
            acknowledged.push(key);
        }
    }
    (counts, acknowledged)
}

/// A piece each for two jobs, seen as they are now.
async fn together(hand: &Hand, dice: &mut Dice, jobs: &[i64]) -> Vec<Value> {
    let first = dice.below(jobs.len());
    let second = (first + 1 + dice.below(jobs.len() - 1)) % jobs.len();
    let mut choices = Vec::new();
    for job in [jobs[first], jobs[second]] {
        let check = hand.get(&format!("/jobs/{job}/checks/input-float")).await;
        choices.push(json!({"job_no": job, "check_key": "input-float", "version": check.map_or(json!(1), |c| c["version"].clone()),
            "pieces": [{"thickness_nm": SIZES[dice.below(SIZES.len())], "count": 1}]}));
    }
    choices
}

async fn count_seen(hand: &Hand, size: i64) -> Value {
    let drawers = hand.get("/drawers").await.unwrap_or_default();
    let drawer = drawers
        .as_array()
        .and_then(|all| all.iter().find(|d| d["key"] == SHIMS));
    let sizes = drawer.and_then(|d| d["sizes"].as_array());
    sizes
        .and_then(|all| all.iter().find(|s| s["thickness_nm"] == size))
        .map_or(json!(0), |s| s["version"].clone())
}

/// Every write that was acknowledged was done, and under its key once.
async fn once_each(pool: &PgPool, acknowledged: &[String]) {
    let kept: i64 = sqlx::query_scalar("select count(*) from done_write where write_key = any($1)")
        .bind(acknowledged)
        .fetch_one(pool)
        .await
        .expect("the database answers");
    println!("  acknowledged: {}, kept: {kept}", acknowledged.len());
    assert_eq!(usize::try_from(kept), Ok(acknowledged.len()));
}

/// What must hold of the drawers, whoever did what.
async fn drawers_agree(pool: &PgPool) {
    for (what, sql) in [
        (
            "sizes of which more is promised than there is",
            "select count(*) from stock where reserved > on_hand",
        ),
        (
            "sizes of which another number is set aside than the choices say",
            "select count(*) from stock s where reserved <> (select coalesce(sum(p.reserved), 0) from setting_piece p
               join setting t using (shop_id, job_no, check_key, setting_no)
             where p.family_key = s.family_key and p.thickness_nm = s.thickness_nm and p.grade = s.grade and t.state = 'chosen')",
        ),
        (
            "moves that do not begin where the last one ended",
            "select count(*) from (select on_hand_was, lag(on_hand) over (partition by family_key, thickness_nm, grade order by move_no) as before
               from stock_move) m where before is not null and before <> on_hand_was",
        ),
        (
            "sizes of which there are not as many as the last move left",
            "select count(*) from stock s join lateral (select on_hand from stock_move m where m.family_key = s.family_key
               and m.thickness_nm = s.thickness_nm and m.grade = s.grade order by move_no desc limit 1) l on true
             where l.on_hand <> s.on_hand",
        ),
        (
            "checks that wait for a piece that lies there free",
            "select count(*) from setting_piece p join setting t using (shop_id, job_no, check_key, setting_no)
               join stock s on s.family_key = p.family_key and s.thickness_nm = p.thickness_nm and s.grade = p.grade
             where t.state = 'chosen' and p.reserved < p.count and s.on_hand - s.reserved >= p.count - p.reserved",
        ),
        (
            "checks whose stored place is not what their job says",
            "select count(*) from job j where j.signed <> (select count(*) from job_check c where c.job_no = j.job_no and c.phase = 'signed')",
        ),
    ] {
        let wrong: i64 = sqlx::query_scalar(sql).fetch_one(pool).await.expect("the database answers");
        println!("  {what}: {wrong}");
        assert_eq!(wrong, 0, "{what}");
    }
}

async fn steady(url: &str, time: Duration, at: &str) {
    let end = Instant::now() + time;
    let mut clients = JoinSet::new();
    for number in 0..STEADY {
        let hand = Hand::at(at);
        clients.spawn(async move {
            let (mut keys, mut resent, mut longest) = (Vec::new(), 0_usize, Duration::ZERO);
            for job_of_mine in 0.. {
                if Instant::now() > end {
                    break;
                }
                let job = hand
                    .open_job(&format!("steady-{}-{number}-job-{job_of_mine}", run()))
                    .await;
                for reading in 0..READINGS_A_JOB {
                    let key = format!("steady-{}-{number}-{job_of_mine}-{reading}", run());
                    let path = format!("/jobs/{job}/checks/second-side/readings");
                    let body = travel(&format!("{} um", 130 + reading));
                    let begun = Instant::now();
                    let (first, _) = hand.send(Method::POST, &path, &key, None, &body).await;
                    if first == 0 || first >= 500 {
                        resent += 1;
                        let (status, answer) = hand.send_until_answered(&path, &key, &body).await;
                        assert_eq!(status, 200, "{answer}");
                    } else {
                        assert_eq!(first, 200);
                    }
                    longest = longest.max(begun.elapsed());
                    keys.push((key, job, 130 + i64::try_from(reading).unwrap_or(0)));
                }
            }
            (keys, resent, longest)
        });
    }
    let (mut acknowledged, mut resent, mut longest) = (Vec::new(), 0, Duration::ZERO);
    while let Some(done) = clients.join_next().await {
        let (keys, more, slowest) = done.expect("a client does not fail");
        acknowledged.extend(keys);
        resent += more;
        longest = longest.max(slowest);
    }
    println!(
        "{} readings acknowledged, {resent} of them after being sent again; the longest took {:.1} s",
        acknowledged.len(),
        longest.as_secs_f64()
    );
    let pool = PgPool::connect(url).await.expect("the database answers");
    let keys: Vec<String> = acknowledged.iter().map(|a| a.0.clone()).collect();
    once_each(&pool, &keys).await;
    let jobs: Vec<i64> = acknowledged.iter().map(|a| a.1).collect();
    let sizes: Vec<i64> = acknowledged.iter().map(|a| a.2 * 1_000).collect();
    let (lost, doubled): (i64, i64) = sqlx::query_as(
        "select count(*) filter (where n = 0), count(*) filter (where n > 1) from (
           select count(r.reading_no) as n from unnest($1::bigint[], $2::bigint[]) as a (job, size)
             left join reading r on r.job_no = a.job and r.check_key = 'second-side'
               and (r.taken ->> 'travel_nm')::bigint = a.size
           group by a.job, a.size) there",
    )
    .bind(&jobs)
    .bind(&sizes)
    .fetch_one(&pool)
    .await
    .expect("the database answers");
    println!("  lost: {lost}, doubled: {doubled}");
    assert_eq!((lost, doubled), (0, 0));
}
