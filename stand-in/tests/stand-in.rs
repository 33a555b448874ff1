//! The stand-in from the outside: what it says is read by the core's own reader.

use std::io::Read;
use std::net::{TcpListener, TcpStream};
use std::process::{Child, Command, Stdio};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use anvil_arithmetic::digital_gauge::{Lines, Rests};

/// Held from when a free port is looked for until somebody listens on it, so that no other test is
/// given the same one in between.
static PORTS: Mutex<()> = Mutex::new(());

/// A stand-in that is stopped when the test is over.
struct StandIn {
    child: Child,
    port: u16,
}

impl StandIn {
    fn start(more: &[&str]) -> Self {
        let _one_at_a_time = PORTS.lock().unwrap_or_else(PoisonError::into_inner);
        let free = TcpListener::bind("127.0.0.1:0").unwrap();
        let port = free.local_addr().unwrap().port();
        drop(free);
        let child = Command::new(env!("CARGO_BIN_EXE_gauge-stand-in"))
            .args(["--port", &port.to_string()])
            .args(more)
            .spawn()
            .unwrap();
        let gauge = Self { child, port };
        drop(gauge.plug_in());
        gauge
    }

    fn plug_in(&self) -> TcpStream {
        for _ in 0..200 {
            if let Ok(stream) = TcpStream::connect(("127.0.0.1", self.port)) {
                return stream;
            }
            std::thread::sleep(Duration::from_millis(25));
        }
        panic!("the stand-in does not listen");
    }
}

impl Drop for StandIn {
    fn drop(&mut self) {
        // Gone already is as good.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

#[test]
fn its_hidden_travel_is_found_between_its_rests() {
    let gauge = StandIn::start(&["--travel-um", "310", "--garble", "40"]);
    let mut stream = gauge.plug_in();
    let (mut lines, mut rests) = (Lines::default(), Rests::default());
    let (mut bytes, mut garbled) = ([0; 512], 0);
    let start = Instant::now();
    // A push and a pull take six seconds.
    while start.elapsed() < Duration::from_secs(8) {
        let count = stream.read(&mut bytes).unwrap();
        let heard = lines.hear(&bytes[..count]);
        garbled += heard.garbled;
        if let Some(newest) = heard.newest {
            let ms = u64::try_from(start.elapsed().as_millis()).unwrap();
            rests.feed(ms, newest);
        }
    }
    let travel = rests.travel().unwrap().nm();
    assert!((travel - 310_000).abs() < 8_000, "{travel}");
    assert!(garbled > 0, "one line in forty was spoiled");
}

#[test]
fn it_hangs_up_when_told_to_and_speaks_again() {
    let gauge = StandIn::start(&["--once", "--rate", "2000"]);
    for _ in 0..2 {
        let mut said = String::new();
        gauge.plug_in().read_to_string(&mut said).unwrap();
        assert_eq!(said.lines().count(), 100);
        assert!(said.lines().all(|l| l.ends_with(" mm")));
    }
}

#[test]
fn a_taken_port_and_a_word_unknown_end_it_with_one_line() {
    let one_at_a_time = PORTS.lock().unwrap_or_else(PoisonError::into_inner);
    let taken = TcpListener::bind("127.0.0.1:0").unwrap();
    drop(one_at_a_time);
    let port = taken.local_addr().unwrap().port().to_string();
    for words in [["--port", port.as_str()], ["--prot", "1"]] {
        let out = Command::new(env!("CARGO_BIN_EXE_gauge-stand-in"))
            .args(words)
            .stderr(Stdio::piped())
            .output()
            .unwrap();
        let said = String::from_utf8(out.stderr).unwrap();
        assert!(!out.status.success());
        assert!(
            said.starts_with("The stand-in gauge cannot go on: ") && said.lines().count() == 1,
            "{said}"
        );
    }
}
