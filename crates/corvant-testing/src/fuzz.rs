//! Fuzzing without a special compiler: seeds, changed at random again and again.
//!
//! A target is a function of bytes that panics when something is wrong. In tests it runs for a fixed number of
//! rounds; with `FUZZ_SECONDS` in the environment it runs for as long as that says.

use crate::corpus::Random;
use std::time::{Duration, Instant};

/// Texts that decide something in one of the carriers, or in the format.
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

/// Runs a target on the seeds and then on changed seeds, `rounds` times or for as long as the environment says.
pub fn fuzz(seeds: &[Vec<u8>], rounds: u64, mut target: impl FnMut(&[u8])) {
    for seed in seeds {
        target(seed);
    }
    let seconds = std::env::var("FUZZ_SECONDS").ok().and_then(|seconds| seconds.parse().ok());
    let end = seconds.map(|seconds| Instant::now() + Duration::from_secs(seconds));
    let mut round = 0;
    while end.map_or(round < rounds, |end| Instant::now() < end) {
        target(&changed(seeds, round));
        round += 1;
    }
}

/// A changed seed; the same round always gives the same bytes.
fn changed(seeds: &[Vec<u8>], round: u64) -> Vec<u8> {
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
