//! Whole audits beside the bare walk, read and parse of the same files, in the same run and in turn.

use crate::{corpus, document, script, shapes, syntaxes};
use clap::ValueEnum;
use corvant_core::audit::{Options, audit};
use corvant_read::plan::Plan;
use corvant_read::syntax::yaml;
use corvant_read::{discover, workspace};
use corvant_render::out::Out;
use corvant_render::text::{self, Extent};
use corvant_testing::corpus::Made;
use rayon::prelude::*;
use std::fmt::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};
use std::{env, fs, io, thread};

/// Services in the largest workspace of which the script is run beside every audit. Past that it takes minutes.
const SCRIPT: usize = 100_000;

/// Name, faults in a file, and stages of what is measured in each size.
const KINDS: [(&str, usize, usize); 3] = [("clean", 0, 0), ("faulty", 1, 0), ("20 stages", 0, 20)];

/// One process that ran to its end.
pub(crate) struct Run {
    pub(crate) time: Duration,
    pub(crate) peak: u64,
}

/// Times of the parts of one audit in this process.
#[derive(Default)]
struct Phases {
    read: Duration,
    link: Duration,
    audit: Duration,
    render: Duration,
}

/// What can be measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Part {
    Sizes,
    Shapes,
    Syntaxes,
}

/// Measures, prints the tables, and writes them into the docs if asked to.
pub(crate) fn run(sizes: &[usize], parts: &[Part], runs: usize, write: bool) -> io::Result<()> {
    build()?;
    for part in parts {
        let (name, table) = match part {
            Part::Sizes => ("sizes", self::sizes(sizes, runs)?),
            Part::Shapes => ("shapes", shapes::table(runs.div_ceil(2))?),
            Part::Syntaxes => ("syntaxes", syntaxes::table(100_000, runs)),
        };
        if write {
            document::replace(name, &table)?;
        }
    }
    Ok(())
}

fn sizes(sizes: &[usize], runs: usize) -> io::Result<String> {
    script::set_up()?;
    let mut table = String::from(
        "| services | kind | files | text | bare | audit | ratio | script | times faster | a service | peak memory | a service, over text | read · link · audit · render |\n\
         | ---: | :---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: | :---: |\n",
    );
    for &services in sizes {
        for (kind, faults, stages) in KINDS {
            let made = Made { services, faults, stages, seed: 1 };
            let row = measure(kind, made, runs)?;
            println!("{row}");
            writeln!(table, "{row}").expect("writing to a String");
        }
    }
    Ok(table)
}

pub(crate) fn build() -> io::Result<()> {
    let status = Command::new(env!("CARGO"))
        .args(["build", "--release", "--quiet", "--package", "corvant"])
        .status()?;
    if status.success() { Ok(()) } else { Err(io::Error::other("the program does not build")) }
}

/// A whole audit of a folder, for which nothing is kept, that does not fail on findings.
pub(crate) fn audit_of(folder: &Path) -> Command {
    let mut command = keeping_audit_of(folder);
    command.arg("--no-cache");
    command
}

/// The same as its users call it.
pub(crate) fn keeping_audit_of(folder: &Path) -> Command {
    let mut command = Command::new("target/release/corvant");
    command.arg("audit").arg(folder).args(["--fail-on", "never"]);
    command
}

fn measure(kind: &str, made: Made, runs: usize) -> io::Result<String> {
    let services = made.services;
    let folder = PathBuf::from(format!("target/corpora/{services}-{}", kind.replace(' ', "-")));
    if !folder.join("expected.txt").exists() {
        corpus::write(&folder, made.files())?;
    }
    let (mut bare, mut whole, mut script) = (Vec::new(), Vec::new(), Vec::new());
    for number in 0..=runs {
        let one = process(Command::new(env::current_exe()?).arg("bare").arg(&folder))?;
        let other = process(&mut audit_of(&folder))?;
        // The first run of each warms the cache.
        if number > 0 {
            // The other kinds take the script as long as the clean one.
            if kind == "clean" && (services <= SCRIPT || number == runs) {
                script.push(script::audit(&folder)?);
            }
            bare.push(one);
            whole.push(other);
        }
    }
    let found = discover::discover(&folder, &Plan::default());
    let bytes: u64 =
        found.manifests.iter().map(|file| file.path.metadata().map_or(0, |data| data.len())).sum();
    let ratios: Vec<f64> = bare
        .iter()
        .zip(&whole)
        .map(|(bare, whole)| whole.time.as_secs_f64() / bare.time.as_secs_f64())
        .collect();
    let milliseconds = |runs: &[Run]| median(runs.iter().map(|run| run.time.as_secs_f64() * 1e3));
    let peak = median(whole.iter().map(|run| run.peak as f64 * 1024.0));
    let script = (!script.is_empty()).then(|| milliseconds(&script));
    let or_nothing = |text: Option<String>| text.unwrap_or_default();
    Ok(format!(
        "| {services} | {kind} | {} | {:.1} MB | {:.1} ms | {:.1} ms | {:.2} | {} | {} | {:.1} µs | {:.0} MB | {:.2} KB | {} |",
        found.manifests.len(),
        bytes as f64 / 1e6,
        milliseconds(&bare),
        milliseconds(&whole),
        median(ratios.into_iter()),
        or_nothing(script.map(|time| format!("{time:.0} ms"))),
        or_nothing(script.map(|time| format!("{:.0}", time / milliseconds(&whole)))),
        milliseconds(&whole) * 1e3 / services as f64,
        peak / 1e6,
        (peak - bytes as f64) / 1e3 / services as f64,
        phases(&folder)
    ))
}

pub(crate) fn median(values: impl Iterator<Item = f64>) -> f64 {
    let mut values: Vec<f64> = values.collect();
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

/// Runs a process and watches how much memory it has at most, as far as the system tells.
pub(crate) fn process(command: &mut Command) -> io::Result<Run> {
    let start = Instant::now();
    let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn()?;
    let status_file = format!("/proc/{}/status", child.id());
    let watcher = thread::spawn(move || {
        let mut peak = 0;
        while let Ok(status) = fs::read_to_string(&status_file) {
            let Some(line) = status.lines().find_map(|line| line.strip_prefix("VmHWM:")) else { break };
            let kilobytes = line.split_whitespace().next().and_then(|number| number.parse().ok());
            peak = peak.max(kilobytes.unwrap_or(0));
            thread::sleep(Duration::from_millis(2));
        }
        peak
    });
    child.wait()?;
    let time = start.elapsed();
    let peak = watcher.join().map_err(|_| io::Error::other("the watcher failed"))?;
    Ok(Run { time, peak })
}

/// The shares of the parts of an audit, the median of some runs in this process.
fn phases(folder: &Path) -> String {
    let runs: Vec<Phases> = (0..5).map(|_| one_audit(folder)).collect();
    let part = |part: fn(&Phases) -> Duration| median(runs.iter().map(|run| part(run).as_secs_f64() * 1e3));
    let parts = [part(|run| run.read), part(|run| run.link), part(|run| run.audit), part(|run| run.render)];
    let sum: f64 = parts.iter().sum();
    let share = |part: f64| format!("{:.0} %", part * 100.0 / sum);
    parts.map(share).join(" · ")
}

fn one_audit(folder: &Path) -> Phases {
    let mut phases = Phases::default();
    let mut last = Instant::now();
    let mut since = move || std::mem::replace(&mut last, Instant::now()).elapsed();
    let Ok(workspace) = workspace::read(folder) else { return phases };
    phases.read = since();
    let wiring = workspace.link().0;
    phases.link = since();
    let report = audit(&wiring, &Options::default());
    phases.audit = since();
    let layout = text::Layout { width: None, color: false };
    // Writing to nowhere cannot fail.
    let _ = text::write(&report, &wiring, Extent::default(), layout, &mut Out::new(&mut io::sink()));
    phases.render = since();
    phases
}

/// Walks, reads and parses, with the same crates and as many threads as an audit.
pub(crate) fn bare(folder: &Path) {
    let found = discover::discover(folder, &Plan::default());
    let files: Vec<&PathBuf> = found.manifests.iter().map(|file| &file.path).collect();
    let nodes: usize = files
        .par_iter()
        .map(|path| {
            let text = fs::read_to_string(path).unwrap_or_default();
            yaml::parse_with_library(&text).map_or(0, |tree| tree.len())
        })
        .sum();
    println!("{nodes} nodes");
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_median_is_the_one_in_the_middle() {
        assert!((median([9.0, 1.0, 5.0].into_iter()) - 5.0).abs() < f64::EPSILON);
        assert!((median([2.0].into_iter()) - 2.0).abs() < f64::EPSILON);
    }

    #[test]
    fn a_process_is_timed_and_its_memory_seen() {
        let run = process(Command::new("sleep").arg("0.05")).expect("it runs");
        assert!(run.time >= Duration::from_millis(50));
        assert!(run.peak > 0);
        assert!(process(&mut Command::new("no-such-program")).is_err());
    }
}
