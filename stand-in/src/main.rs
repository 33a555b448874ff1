//! `gauge-stand-in [--port 7420] [--travel-um 240] [--rate 50] [--seed 1] [--garble 0] [--once]`
//!
//! A stand-in for a digital indicator standing on a shaft that somebody pushes and pulls. It has a
//! hidden true travel, noise, a wobble as the shaft turns, and a hand that pushes home, rests, pulls
//! out and rests; it speaks one plain line a reading, `+0.123 mm`, to whoever connects on loopback.
//! `--garble N` spoils one line in N; `--once` hangs up after a hundred lines, as a loose plug does.

use std::io::Write;
use std::net::{TcpListener, TcpStream};
use std::process::ExitCode;
use std::time::{Duration, Instant};

/// What is asked of it.
#[derive(Clone, Copy, Debug)]
struct Wanted {
    port: u16,
    travel_um: f64,
    rate: u32,
    seed: u64,
    garble: u32,
    once: bool,
}

fn main() -> ExitCode {
    match wanted(std::env::args().skip(1)) {
        Ok(wanted) => serve(wanted),
        Err(why) => {
            eprintln!("The stand-in gauge cannot go on: {why}");
            ExitCode::FAILURE
        }
    }
}

fn wanted(mut words: impl Iterator<Item = String>) -> Result<Wanted, String> {
    let mut wanted = Wanted {
        port: 7420,
        travel_um: 240.0,
        rate: 50,
        seed: 1,
        garble: 0,
        once: false,
    };
    while let Some(word) = words.next() {
        if word == "--once" {
            wanted.once = true;
            continue;
        }
        let figure = words.next().unwrap_or_default();
        let bad = || format!("{word} “{figure}” is not read: it wants a whole number");
        match word.as_str() {
            "--port" => wanted.port = figure.parse().map_err(|_| bad())?,
            "--travel-um" => wanted.travel_um = figure.parse().map_err(|_| bad())?,
            "--rate" => wanted.rate = figure.parse().map_err(|_| bad())?,
            "--seed" => wanted.seed = figure.parse().map_err(|_| bad())?,
            "--garble" => wanted.garble = figure.parse().map_err(|_| bad())?,
            _ => {
                return Err(format!(
                    "{word} is not known: --port, --travel-um, --rate, --seed, --garble, --once are"
                ));
            }
        }
    }
    if wanted.rate == 0 || wanted.rate > 100_000 {
        return Err("--rate is from 1 to 100000 lines a second".into());
    }
    Ok(wanted)
}

fn serve(wanted: Wanted) -> ExitCode {
    let listener = match TcpListener::bind(("127.0.0.1", wanted.port)) {
        Ok(listener) => listener,
        Err(why) => {
            eprintln!(
                "The stand-in gauge cannot go on: port {} is not to be had ({why})",
                wanted.port
            );
            return ExitCode::FAILURE;
        }
    };
    let start = Instant::now();
    for (number, screen) in listener.incoming().flatten().enumerate() {
        let seed = wanted.seed.wrapping_add(number as u64);
        // Who hangs up ends the thread: there is nobody left to tell.
        std::thread::spawn(move || speak(screen, wanted, seed, start));
    }
    ExitCode::SUCCESS
}

/// Speaks until the other side hangs up.
fn speak(mut screen: TcpStream, wanted: Wanted, seed: u64, start: Instant) -> std::io::Result<()> {
    screen.set_nodelay(true)?;
    let mut dice = Dice(seed | 1);
    let gap = Duration::from_secs(1) / wanted.rate;
    let mut due = Instant::now();
    for number in 1_u64.. {
        let at = start.elapsed().as_secs_f64();
        let micrometres = position(at, wanted.travel_um) + dice.noise(1.2);
        let spoiled = wanted.garble > 0 && number % u64::from(wanted.garble) == 0;
        if spoiled {
            screen.write_all(b"+0.#~5 m\n")?;
        } else {
            writeln!(screen, "{:+.3} mm", micrometres / 1000.0)?;
        }
        if wanted.once && number == 100 {
            return Ok(());
        }
        due += gap;
        std::thread::sleep(due.saturating_duration_since(Instant::now()));
    }
    Ok(())
}

/// One push and pull takes so long, in seconds.
const CYCLE: f64 = 6.0;

/// Where the shaft stands after so many seconds, in micrometres from home: it rests home, is pulled
/// out, rests out, and is pushed home; it wobbles as it is turned, and a hard pull flexes the case.
fn position(at: f64, travel_um: f64) -> f64 {
    let phase = at.rem_euclid(CYCLE) / CYCLE;
    let smooth = |x: f64| x * x * (3.0 - 2.0 * x);
    let out = match phase {
        p if p < 0.40 => 0.0,
        p if p < 0.47 => smooth((p - 0.40) / 0.07),
        p if p < 0.90 => 1.0,
        p => 1.0 - smooth((p - 0.90) / 0.10),
    };
    let wobble = 1.5 * (at * 2.1).sin();
    let flex = if (0.47..0.55).contains(&phase) {
        4.0 * (1.0 - (phase - 0.47) / 0.08)
    } else {
        0.0
    };
    out * travel_um + wobble + flex
}

/// A small generator of pseudo-random numbers (xorshift), seeded, so that a run can be done again.
struct Dice(u64);

impl Dice {
    /// About normal, of the given deviation: the sum of twelve even throws less six.
    #[allow(clippy::cast_precision_loss)] // 53 bits are kept
    fn noise(&mut self, deviation: f64) -> f64 {
        let throws = (0..12).map(|_| {
            self.0 ^= self.0 << 13;
            self.0 ^= self.0 >> 7;
            self.0 ^= self.0 << 17;
            (self.0 >> 11) as f64 / (1_u64 << 53) as f64
        });
        (throws.sum::<f64>() - 6.0) * deviation
    }
}

#[cfg(test)]
mod tests {
    use super::{Dice, position, wanted};

    #[test]
    fn the_hand_moves_the_shaft_by_its_hidden_travel() {
        let home = position(1.0, 240.0);
        let out = position(4.8, 240.0);
        assert!((out - home - 240.0).abs() < 4.0, "{home} {out}");
    }

    #[test]
    fn the_noise_has_the_deviation_asked_for() {
        let mut dice = Dice(7);
        let throws: Vec<f64> = (0..20_000).map(|_| dice.noise(2.0)).collect();
        let variance = throws.iter().map(|t| t * t).sum::<f64>() / 20_000.0;
        assert!((variance.sqrt() - 2.0).abs() < 0.05, "{variance}");
    }

    #[test]
    fn what_is_not_known_is_named() {
        let words = |text: &str| wanted(text.split(' ').map(str::to_owned));
        assert_eq!(words("--port 9").unwrap().port, 9);
        assert!(
            words("--prot 9")
                .unwrap_err()
                .contains("--prot is not known")
        );
        assert!(words("--rate fast").unwrap_err().contains("--rate “fast”"));
        assert!(words("--rate 0").unwrap_err().contains("from 1 to 100000"));
    }
}
