//! Trials under load and while things are killed; the scripts beside say how they are run.
//!
//! - `trial fight WRITES HOST:PORT…`: eight clients press whatever moves pieces of one drawer or used parts between boxes,
//!   and take readings, do steps and say what they see beside it, at all the servers in turn.
//! - `trial steady SECONDS HOST:PORT`: four clients take readings, each of another size, and send one again under its key
//!   until it is answered.
//! - `trial spoil FILES HOST:PORT`: files of jobs, each with something else in it than was written, are taken in; what is
//!   not refused is looked at on every page. Only for a shop that nobody needs.
//!
//! All end with what they found: how often each status came, and whether what was acknowledged is there once. The
//! database is asked by `DATABASE_URL`.

#[path = "../it/house/short.rs"]
mod short;

use std::collections::BTreeMap;
use std::io::{Cursor, Read, Write};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use reqwest::{Client, Method};
use serde_json::{Value, json};
use sqlx::PgPool;
use tokio::task::JoinSet;
use zip::write::SimpleFileOptions;
use zip::{ZipArchive, ZipWriter};

const FIGHTERS: usize = 8;
const STEADY: usize = 4;
/// A round of readings at a bench is short; so many, and the next job.
const READINGS_A_JOB: usize = 12;
const SHIMS: &str = "t5-input-shim";
const USED: [&str; 3] = ["in-3", "main-3", "main-4"];
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
        ["spoil", files, at] => {
            let files = files.parse().expect("FILES is a whole number");
            spoil(&url, files, at).await;
        }
        _ => panic!(
            "usage: trial fight WRITES HOST:PORT… | trial steady SECONDS HOST:PORT | trial spoil FILES HOST:PORT"
        ),
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
        let act = short::act(path, body);
        let (method, path, body) = match &act {
            Some((path, act)) => (Method::POST, path.as_str(), act),
            None => (method, path, body),
        };
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

    async fn open_job(&self, key: &str, for_parts: bool) -> i64 {
        let card = json!({"sheet_key": "tolvane-t5", "title": "Van", "customer": "A baker", "complaint": "",
            "variant": "long", "for_parts": for_parts, "who": "RT"});
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
            .open_job(&format!("fight-{}-job-{number}", run()), false)
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
    let mut donors = Vec::new();
    for number in 0..2 {
        let key = format!("fight-{}-donor-{number}", run());
        let job = hands[0].open_job(&key, true).await;
        for part in USED {
            let sound =
                json!({"act": {"act": "found", "part": part, "state": "reused"}, "who": "RT"});
            let key = format!("fight-{}-sound-{number}-{part}", run());
            let path = format!("/jobs/{job}/parts");
            let (status, told) = hands[0].send_until_answered(&path, &key, &sound).await;
            assert_eq!(status, 200, "{told}");
        }
        donors.push(job);
    }
    let begun = Instant::now();
    let left = std::sync::Arc::new(AtomicUsize::new(writes));
    let mut fighters = JoinSet::new();
    for number in 0..FIGHTERS {
        let (hands, left) = (hands.clone(), std::sync::Arc::clone(&left));
        let boxes = (jobs.clone(), donors.clone());
        fighters.spawn(async move { fighter(number, &hands, (&boxes.0, &boxes.1), &left).await });
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
    parts_agree(&pool).await;
    assert_eq!(faults, 0, "nobody is turned away with a fault");
}

async fn fighter(
    number: usize,
    hands: &[Hand],
    (jobs, donors): (&[i64], &[i64]),
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
        let pressed = Press::any(hand, &mut dice, (jobs, donors), (job, version)).await;
        let Press {
            act,
            method,
            path,
            seen,
            body,
        } = pressed;
        let key = format!("fight-{}-{number}-{turn}", run());
        let (status, _) = hand.send(method, &path, &key, seen.as_ref(), &body).await;
        *counts.entry((act.to_owned(), status)).or_default() += 1;
        if (200..300).contains(&status) {
            acknowledged.push(key);
        }
    }
    (counts, acknowledged)
}

/// What is pressed.
struct Press {
    act: &'static str,
    method: Method,
    path: String,
    /// The version that was seen, where that matters.
    seen: Option<Value>,
    body: Value,
}

impl Press {
    async fn any(
        hand: &Hand,
        dice: &mut Dice,
        (jobs, donors): (&[i64], &[i64]),
        (job, version): (i64, Value),
    ) -> Self {
        let check = format!("/jobs/{job}/checks/input-float");
        let piece = json!({"pieces": [{"thickness_nm": SIZES[dice.below(SIZES.len())], "count": 1}], "who": "RT"});
        let who = json!({"who": "RT"});
        let size = SIZES[dice.below(SIZES.len())];
        let (act, method, path, seen, body) = match dice.below(20) {
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
            12..19 => {
                let (act, path, body) = beside(dice, donors, job);
                (act, Method::POST, path, None, body)
            }
            _ => {
                let choices: Vec<Value> = together(hand, dice, jobs).await;
                (
                    "together",
                    Method::POST,
                    "/share/choose".into(),
                    None,
                    json!({"choices": choices, "who": "RT"}),
                )
            }
        };
        Self {
            act,
            method,
            path,
            seen,
            body,
        }
    }
}

/// What is done of a job's box beside its checks: used parts go out of one box or the other, new ones in, its own again, or
/// what was said before; a step is done, a note made.
fn beside(dice: &mut Dice, donors: &[i64], job: i64) -> (&'static str, String, Value) {
    let part = USED[dice.below(USED.len())];
    let (act, path, mut body) = match dice.below(7) {
        0 | 1 => {
            let from = [Some(donors[0]), Some(donors[1]), None, Some(job)][dice.below(4)];
            let parts = json!({"parts": [{"part": part, "from": from}]});
            ("take", format!("/jobs/{job}/donors/take"), parts)
        }
        2 | 3 => {
            let act = match dice.below(3) {
                0 => json!({"act": "found", "part": part, "state": "renewed"}),
                _ => json!({"act": "taken_back", "part": part}),
            };
            let of = if dice.below(8) == 0 {
                donors[dice.below(2)]
            } else {
                job
            };
            ("part", format!("/jobs/{of}/parts"), json!({"act": act}))
        }
        4 => {
            let place = ["shelf 2", ""][dice.below(2)];
            let parts = json!({"parts": [part], "place": place});
            let path = format!("/jobs/{}/shelf", donors[dice.below(2)]);
            ("shelf", path, parts)
        }
        5 => {
            let act = match dice.below(2) {
                0 => json!({"act": "done", "step": "clean"}),
                _ => json!({"act": "out", "step": "clean", "why": "a trial"}),
            };
            ("step", format!("/jobs/{job}/build"), json!({"act": act}))
        }
        _ => (
            "note",
            format!("/jobs/{job}/notes"),
            json!({"said": "a trial"}),
        ),
    };
    body["who"] = json!("RT");
    (act, path, body)
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
        none_of(pool, what, sql).await;
    }
}

/// What must hold of used parts: who gave one, who has it, and where the database says that it is, is one and the same.
async fn parts_agree(pool: &PgPool) {
    const GIVEN: &str = "select job_no as from_job, said->>'part' as part, (said->>'to')::int as in_job from (
           select distinct on (job_no, said->>'part') job_no, said from part_act
           where said->>'act' in ('given', 'given_back') order by job_no, said->>'part', act_no desc) g
         where said->>'act' = 'given'";
    for (what, sql) in [
        (
            "used parts of which who gave them says otherwise than the database",
            format!(
                "select count(*) from ((({GIVEN}) except select from_job, part, in_job from used_part)
                 union all (select from_job, part, in_job from used_part except ({GIVEN}))) d"
            ),
        ),
        (
            "used parts whose box has said nothing of them",
            "select count(*) from used_part u where not exists (select 1 from part_act a where a.job_no = u.in_job
               and a.said->>'act' = 'found' and a.said->>'part' = u.part and (a.said->>'from')::int = u.from_job)".to_owned(),
        ),
    ] {
        none_of(pool, what, &sql).await;
    }
}

async fn none_of(pool: &PgPool, what: &str, sql: &str) {
    let wrong: i64 = sqlx::query_scalar(sqlx::AssertSqlSafe(sql))
        .fetch_one(pool)
        .await
        .expect("the database answers");
    println!("  {what}: {wrong}");
    assert_eq!(wrong, 0, "{what}");
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
                    .open_job(
                        &format!("steady-{}-{number}-job-{job_of_mine}", run()),
                        false,
                    )
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

/// A file of the archive by its name.
type Entries = Vec<(String, Vec<u8>)>;

fn entries_of(file: &[u8]) -> Entries {
    let mut zip = ZipArchive::new(Cursor::new(file)).expect("a ZIP");
    let each = (0..zip.len()).map(|at| {
        let mut entry = zip.by_index(at).expect("an entry");
        let mut bytes = Vec::new();
        entry.read_to_end(&mut bytes).expect("it is whole");
        (entry.name().expect("a name").into_owned(), bytes)
    });
    each.collect()
}

fn file_of(entries: &Entries) -> Vec<u8> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in entries {
        let begun = zip.start_file(name.as_str(), SimpleFileOptions::default());
        begun
            .and_then(|()| Ok(zip.write_all(bytes)?))
            .expect("there is room");
    }
    zip.finish().expect("there is room").into_inner()
}

/// Puts something else at one place of a value.
fn spoil_value(value: &mut Value, dice: &mut Dice) {
    match value {
        Value::Object(fields) if !fields.is_empty() && dice.below(6) > 0 => {
            let at = dice.below(fields.len());
            let (name, of) = fields.iter_mut().nth(at).expect("it is there");
            let name = name.clone();
            match dice.below(12) {
                0 => drop(fields.remove(&name)),
                _ => spoil_value(of, dice),
            }
        }
        Value::Array(all) if !all.is_empty() && dice.below(6) > 0 => {
            let at = dice.below(all.len());
            match dice.below(12) {
                0 => drop(all.remove(at)),
                1 => all.push(all[at].clone()),
                _ => spoil_value(&mut all[at], dice),
            }
        }
        value => {
            let number = value.as_i64().unwrap_or(3);
            let others = [
                Value::Null,
                json!(""),
                json!("infinity"),
                json!("in-3"),
                json!("<b>\u{202e}</b>"),
                json!("x".repeat(70_000)),
                json!("2999-01-01"),
                json!("1970-01-01T00:00:00Z"),
                json!("signed"),
                json!(-1),
                json!(number + 1),
                json!(number * -1_000),
                json!(9_007_199_254_740_993_i64),
                json!(1e300),
                json!(true),
                json!([]),
                json!({}),
                json!([value]),
            ];
            *value = others[dice.below(others.len())].clone();
        }
    }
}

/// The file with something else in one row or in what it says of itself, or with some of its bytes altered.
fn spoilt(entries: &Entries, dice: &mut Dice) -> Vec<u8> {
    let mut entries = entries.clone();
    if dice.below(10) == 0 {
        let mut file = file_of(&entries);
        for _ in 0..=dice.below(4) {
            let at = dice.below(file.len());
            file[at] ^= 1 << dice.below(8);
        }
        file.truncate(
            file.len()
                - if dice.below(3) == 0 {
                    dice.below(600)
                } else {
                    0
                },
        );
        return file;
    }
    let texts: Vec<usize> = (0..entries.len())
        .filter(|at| entries[*at].0.contains(".json") && !entries[*at].1.is_empty())
        .collect();
    let bytes = &mut entries[texts[dice.below(texts.len())]].1;
    let text = String::from_utf8(std::mem::take(bytes)).expect("a text");
    let rows = text.lines().count();
    // What it says of itself is one value of many lines.
    if let Ok(mut value) = serde_json::from_str::<Value>(&text) {
        spoil_value(&mut value, dice);
        *bytes = format!("{value}\n").into_bytes();
    } else {
        let which = dice.below(rows);
        let lines = text.lines().enumerate().map(|(at, line)| {
            let mut value: Value = serde_json::from_str(line).expect("a row is JSON");
            if at == which {
                spoil_value(&mut value, dice);
            }
            format!("{value}\n")
        });
        *bytes = lines.collect::<String>().into_bytes();
    }
    file_of(&entries)
}

async fn spoil(url: &str, files: usize, at: &str) {
    let hand = Hand::at(at);
    let pool = PgPool::connect(url).await.expect("the database answers");
    let jobs: Vec<i32> = sqlx::query_scalar("select job_no from job order by job_no")
        .fetch_all(&pool)
        .await
        .expect("the database answers");
    let mut sound = Vec::new();
    for job in jobs {
        let file = hand.client.get(format!("{}/jobs/{job}/file", hand.at));
        let file = file.send().await.expect("it answers").bytes().await;
        sound.push(entries_of(&file.expect("it is whole")));
    }
    let mut dice = Dice(48_611);
    let mut counts: BTreeMap<u16, usize> = BTreeMap::new();
    let mut faults = Vec::new();
    for number in 0..files {
        let file = spoilt(&sound[dice.below(sound.len())], &mut dice);
        let sent = hand.client.post(format!("{}/job-file?who=RT", hand.at));
        let key = format!("spoil-{}-{number}", run());
        let sent = sent.header("Idempotency-Key", key).body(file).send().await;
        let (status, answer) = match sent {
            Ok(answer) => (
                answer.status().as_u16(),
                answer.json::<Value>().await.unwrap_or_default(),
            ),
            Err(_) => (0, Value::Null),
        };
        *counts.entry(status).or_default() += 1;
        if status == 0 || status >= 500 {
            faults.push(format!("file {number}: {status} {answer}"));
        } else if status == 200 {
            let job = answer["job_no"].as_i64().expect("a number");
            for page in pages_of(&pool, job).await {
                let got = hand.client.get(format!("{}{page}", hand.at)).send().await;
                let status = got.map_or(0, |a| a.status().as_u16());
                if status == 0 || status >= 500 {
                    faults.push(format!("file {number}: {page}: {status}"));
                }
            }
        }
        if number % 500 == 499 {
            println!(
                "{} of {files} files: {counts:?}, {} faults",
                number + 1,
                faults.len()
            );
        }
    }
    for fault in &faults {
        println!("  {fault}");
    }
    println!(
        "{files} files with something else in them: {counts:?}, {} faults",
        faults.len()
    );
    assert!(
        faults.is_empty(),
        "what was taken in or refused kept somebody from a page"
    );
}

/// Every page on which a job stands, its own and everybody's.
async fn pages_of(pool: &PgPool, job: i64) -> Vec<String> {
    let checks: Vec<String> =
        sqlx::query_scalar("select check_key from job_check where job_no = $1")
            .bind(i32::try_from(job).unwrap_or(0))
            .fetch_all(pool)
            .await
            .expect("the database answers");
    let sheet: Option<String> = sqlx::query_scalar("select sheet_key from job where job_no = $1")
        .bind(i32::try_from(job).unwrap_or(0))
        .fetch_optional(pool)
        .await
        .expect("the database answers");
    let sheet = sheet.unwrap_or_default();
    let own = [
        "",
        "/report",
        "/parts",
        "/build",
        "/donors",
        "/identity",
        "/plan",
        "/closings",
        "/since",
        "/pictures",
        "/file",
    ];
    let own = own.iter().map(|page| format!("/jobs/{job}{page}"));
    let of_checks = checks.iter().map(|key| format!("/jobs/{job}/checks/{key}"));
    let shared = [
        "/jobs".to_owned(),
        "/jobs?finished=true".to_owned(),
        "/jobs?put_away=true".to_owned(),
        "/parts".to_owned(),
        "/shelf".to_owned(),
        "/drawers".to_owned(),
        "/order/awaited".to_owned(),
        "/drawers/conflicts".to_owned(),
        "/gauges".to_owned(),
        "/sheets".to_owned(),
        format!("/sheets/{sheet}/found"),
        format!("/sheets/{sheet}/past"),
        format!("/sheets/{sheet}/notes"),
    ];
    own.chain(of_checks).chain(shared).collect()
}
