//! The report as a page: one file that loads nothing, to look around in all that was read.
//!
//! Page, stylesheet and script are files of their own here and one when written. What is shown travels in one slot, as
//! columns of numbers and a list of texts, compressed; the browser unpacks it. The policy in the page lets nothing run
//! but that one script, by its hash, and nothing be fetched; the script makes nothing but text of what is in the data.

mod changes;
mod cycles;
mod data;
mod findings;
mod modules;
mod strings;
mod things;

use crate::changes::Compared;
use crate::out::Out;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use base64::write::EncoderWriter;
use corvant_core::answers::View;
use corvant_core::audit::Report;
use data::Data;
use flate2::Compression;
use flate2::write::GzEncoder;
use sha2::{Digest, Sha256};
use std::io::{self, BufWriter, Write};

const PAGE: &str = include_str!("page.html");
const STYLE: &str = include_str!("page.css");
const SCRIPT: &str = include_str!("page.js");

/// How hard the data is compressed, of 9: more makes the file hardly smaller and takes many times as long.
const EFFORT: u32 = 6;

/// What is known of an audit besides its report.
#[derive(Clone, Copy, Debug)]
pub struct Circumstances<'a> {
    /// The folder that was audited, as given.
    pub root: &'a str,
    /// Whether the audit fails.
    pub is_failing: bool,
    /// What is another than before, if it is compared with something.
    pub compared: Option<Compared<'a>>,
}

/// Writes a report as a page; `view` is the wiring that it is of, in the stage that is shown.
pub fn write(report: &Report, view: &View<'_>, of: Circumstances<'_>, out: &mut Out<'_>) -> io::Result<()> {
    let [head, middle, before_script, end] = around(["{{style}}", "{{data}}", "{{script}}"]);
    let head = head.replace("{{style-hash}}", &hash(STYLE)).replace("{{script-hash}}", &hash(SCRIPT));
    write!(out, "{head}{STYLE}{middle}")?;
    let text = EncoderWriter::new(BufWriter::new(&mut *out), &STANDARD);
    let mut packed = GzEncoder::new(text, Compression::new(EFFORT));
    // Many small pieces are written: they are gathered before they are compressed.
    let mut gathered = BufWriter::with_capacity(1 << 16, &mut packed);
    serde_json::to_writer(&mut gathered, &Data::new(report, view, of))?;
    gathered.flush()?;
    drop(gathered);
    packed.finish()?.finish()?.flush()?;
    write!(out, "{before_script}{SCRIPT}{end}")
}

/// What of the page stands before, between and behind three places in it, of which each is there once.
fn around(places: [&str; 3]) -> [&'static str; 4] {
    let [one, two, three] = places;
    let cut = |text: &'static str, place: &str| text.split_once(place).unwrap_or((text, ""));
    let (first, rest) = cut(PAGE, one);
    let (second, rest) = cut(rest, two);
    let (third, fourth) = cut(rest, three);
    [first, second, third, fourth]
}

/// What a Content-Security-Policy knows a text by.
fn hash(text: &str) -> String {
    format!("sha256-{}", STANDARD.encode(Sha256::digest(text.as_bytes())))
}
