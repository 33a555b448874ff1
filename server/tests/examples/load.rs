//! `load HOST:PORT JOBS SECONDS [search]`: thirty-two clients on loopback, one kind of request at a time; at a
//! pace of five requests a second each, far above any bench's, and then without a pause. With `search`, only at that pace,
//! while three screens ask to share out the whole bench and give it two minutes each.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::{Duration, Instant};

const CLIENTS: usize = 32;

#[derive(Clone, Copy)]
enum Kind {
    Bench,
    Box,
    Read,
}

#[tokio::main]
async fn main() {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let (at, jobs, seconds, search) = match words.as_slice() {
        [at, jobs, seconds] => (at, jobs, seconds, false),
        [at, jobs, seconds, search] if search == "search" => (at, jobs, seconds, true),
        _ => panic!("usage: load HOST:PORT JOBS SECONDS [search]"),
    };
    let jobs: usize = jobs.parse().expect("JOBS is a whole number");
    let time = Duration::from_secs(seconds.parse().expect("SECONDS is a whole number"));
    let client = reqwest::Client::new();
    let ready = format!("http://{at}/readyz");
    for _ in 0..200 {
        if client
            .get(&ready)
            .send()
            .await
            .is_ok_and(|a| a.status().is_success())
        {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    let searches: Vec<_> = (0..if search { SEARCHES } else { 0 })
        .map(|_| tokio::spawn(share_out(client.clone(), format!("http://{at}/api/share"))))
        .collect();
    let paces: &[Option<Duration>] = if search {
        &[Some(PACE)]
    } else {
        &[Some(PACE), None]
    };
    for pace in paces.iter().copied() {
        match pace {
            Some(pace) => {
                println!("{CLIENTS} clients, one request every {pace:?} each, {jobs} jobs:");
            }
            None => println!("{CLIENTS} clients without a pause:"),
        }
        report(&client, at, jobs, time, pace).await;
    }
    if search {
        let under_way = searches.iter().filter(|s| !s.is_finished()).count();
        println!(
            "{under_way} of {SEARCHES} searches were under way, or waited for their turn, to the end"
        );
        assert!(under_way > 0, "nothing was searched beside it");
    }
}

/// So many screens ask to share out at once.
const SEARCHES: usize = 3;

async fn share_out(client: reqwest::Client, at: String) {
    let asked = client.post(at).json(&serde_json::json!({"seconds": 120}));
    let answer = asked.send().await.expect("the server answers");
    assert!(answer.status().is_success(), "{}", answer.status());
    answer.bytes().await.expect("the answer is whole");
}

/// How often a client asks when it keeps a pace.
const PACE: Duration = Duration::from_millis(200);

async fn report(
    client: &reqwest::Client,
    at: &str,
    jobs: usize,
    time: Duration,
    pace: Option<Duration>,
) {
    for (name, kind) in [
        ("Bench list", Kind::Bench),
        ("a Box", Kind::Box),
        ("saving a reading", Kind::Read),
    ] {
        let mut times = run(client, at, jobs, time, kind, pace).await;
        times.sort_unstable();
        let at = |per_cent: usize| times[(times.len() - 1) * per_cent / 100].as_secs_f64() * 1e3;
        println!(
            "{name:>17}: p50 {:>6.1} ms, p99 {:>6.1} ms, {:>6.0} a second",
            at(50),
            at(99),
            times.len() as f64 / time.as_secs_f64()
        );
    }
}

async fn run(
    client: &reqwest::Client,
    at: &str,
    jobs: usize,
    time: Duration,
    kind: Kind,
    pace: Option<Duration>,
) -> Vec<Duration> {
    // Counted on through all runs: no two writes have one key.
    static TURN: AtomicUsize = AtomicUsize::new(0);
    let end = Instant::now() + time;
    let one = |client: reqwest::Client, at: String, number: usize| async move {
        let mut times = Vec::new();
        if let Some(pace) = pace {
            // Not all at once.
            tokio::time::sleep(pace * u32::try_from(number).unwrap_or(0) / 32).await;
        }
        let mut clock = pace.map(tokio::time::interval);
        while Instant::now() < end {
            if let Some(clock) = &mut clock {
                clock.tick().await;
            }
            let n = TURN.fetch_add(1, Ordering::Relaxed);
            let job = n * 7919 % jobs + 1;
            let request = match kind {
                Kind::Bench => client.get(format!("http://{at}/api/jobs")),
                Kind::Box => client.get(format!("http://{at}/api/jobs/{job}")),
                Kind::Read => client
                    .post(format!(
                        "http://{at}/api/jobs/{job}/checks/second-side/readings"
                    ))
                    .header(
                        "Idempotency-Key",
                        format!("load-{}-{n}", std::process::id()),
                    )
                    .json(&serde_json::json!({"way": "dial_travel",
                        "entry": {"kind": "travel", "travel": "0.21"}, "unit": "mm", "who": "RT"})),
            };
            let start = Instant::now();
            let answer = request.send().await.expect("the server answers");
            let status = answer.status();
            answer.bytes().await.expect("the answer is whole");
            assert!(status.is_success(), "{status}");
            times.push(start.elapsed());
        }
        times
    };
    let clients: Vec<_> = (0..CLIENTS)
        .map(|number| tokio::spawn(one(client.clone(), at.to_owned(), number)))
        .collect();
    let mut all = Vec::new();
    for client in clients {
        all.extend(client.await.expect("a client ends well"));
    }
    all
}
