//! Fuzzing without a special compiler: seeds, changed at random again and again.
//!
//! A target is a function of bytes that panics when something is wrong. In tests it runs on all that is kept in
//! `crates/corvant-testing/fuzz/TARGET` and then for a fixed number of rounds; with `FUZZ_SECONDS` in the environment it runs
//! for as long as that says. What a target fails at is kept there, and so is looked at in every later run.

use crate::corpus::Random;
use std::fs;
use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind};
use std::path::PathBuf;
use std::time::{Duration, Instant};

/// Texts that decide something in one of the syntaxes, or in the format.
const WORDS: [&[u8]; 40] = [
    b"[",
    b"]",
    b"{",
    b"}",
    b": ",
    b"- ",
    b",",
    b"\n",
    b"  ",
    b"\t",
    b"\r",
    b"\"",
    b"'",
    b"\"\"\"",
    b"'''",
    b"#",
    b"&a ",
    b"*a",
    b"<<: ",
    b"!!str ",
    b"---\n",
    b"|\n",
    b">-\n",
    b"? ",
    b"%",
    b"\\",
    b"\\u12",
    b"\xff",
    b"\xc5\xbe",
    b"\xef\xbb\xbf",
    b"\0",
    b"[[a]]\n",
    b"[a.b]\n",
    b" = ",
    b".",
    b"1e9",
    b"null",
    b"true",
    b"services",
    b"needs",
];

/// Runs a target on what is kept for it, on the seeds, and then on changed ones, `rounds` times or for as long as the
/// environment says.
///
/// # Panics
///
/// If the target does, with what it said.
pub fn fuzz(name: &str, seeds: &[Vec<u8>], rounds: u64, mut target: impl FnMut(&[u8])) {
    let mut attempt = |bytes: &[u8], origin: &str| {
        if let Err(panic) = catch_unwind(AssertUnwindSafe(|| target(bytes))) {
            keep(name, bytes, origin);
            resume_unwind(panic);
        }
    };
    let seeds: Vec<Vec<u8>> = kept(name).into_iter().chain(seeds.iter().cloned()).collect();
    for (number, seed) in seeds.iter().enumerate() {
        attempt(seed, &format!("seed-{number}"));
    }
    let seconds = std::env::var("FUZZ_SECONDS").ok().and_then(|seconds| seconds.parse().ok());
    let end = seconds.map(|seconds| Instant::now() + Duration::from_secs(seconds));
    let mut round = 0;
    while end.map_or(round < rounds, |end| Instant::now() < end) {
        attempt(&changed(&seeds, round), &format!("round-{round}"));
        round += 1;
    }
    println!("{name}: {} seeds, {round} changed ones", seeds.len());
}

fn folder(name: &str) -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("fuzz").join(name)
}

/// What was kept for a target, in the order of the names.
fn kept(name: &str) -> Vec<Vec<u8>> {
    let mut paths: Vec<PathBuf> =
        fs::read_dir(folder(name)).into_iter().flatten().flatten().map(|entry| entry.path()).collect();
    paths.sort();
    paths.iter().filter_map(|path| fs::read(path).ok()).collect()
}

/// Keeps what a target failed at. Where nothing can be written, the failure itself is told all the same.
fn keep(name: &str, bytes: &[u8], origin: &str) {
    let path = folder(name).join(origin);
    if !origin.starts_with("seed")
        && fs::create_dir_all(folder(name)).is_ok()
        && fs::write(&path, bytes).is_ok()
    {
        eprintln!("{name}: it fails at {}, which is kept", path.display());
    }
}

/// A changed seed; the same round always gives the same bytes.
pub fn changed(seeds: &[Vec<u8>], round: u64) -> Vec<u8> {
    let mut random = Random::new(round);
    let mut bytes = seeds[random.below(seeds.len())].clone();
    for _ in 0..=random.below(5) {
        let at = random.below(bytes.len() + 1);
        let end = (at + random.below(12)).min(bytes.len());
        match random.below(6) {
            0 => drop(bytes.drain(at..end)),
            1 => drop(bytes.splice(at..at, WORDS[random.below(WORDS.len())].iter().copied())),
            2 => drop(bytes.splice(at..end, WORDS[random.below(WORDS.len())].iter().copied())),
            3 => {
                let again = bytes[at..end].repeat(1 + random.below(4));
                drop(bytes.splice(at..at, again));
            }
            4 if at < bytes.len() => bytes[at] ^= 1 << random.below(8),
            _ => {
                // A part of another seed.
                let other = &seeds[random.below(seeds.len())];
                let from = random.below(other.len() + 1);
                let to = (from + random.below(60)).min(other.len());
                drop(bytes.splice(at..end, other[from..to].iter().copied()));
            }
        }
    }
    bytes
}
