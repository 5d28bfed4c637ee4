//! What results cost: very many findings in every format, and large workspaces as pages in a browser.

use crate::bench::{audit_of, build, median, process};
use crate::{corpus, shapes};
use corvant_testing::browser::{self, Browser};
use corvant_testing::corpus::Made;
use corvant_testing::shapes::Shape;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::{fs, io};

/// Missing names that are looked for; each is a finding, and so is nearly every service.
const MISSING: usize = 100_000;
const FORMATS: [&str; 6] = ["text", "json", "sarif", "junit", "markdown", "html"];

/// Writes many findings in each format, then pages of workspaces of some sizes.
pub(crate) fn run(sizes: &[usize], runs: usize) -> io::Result<()> {
    build()?;
    let folder = PathBuf::from(format!("target/corpora/shape-{:?}-{MISSING}", Shape::Missing));
    shapes::written(Shape::Missing, MISSING, &folder)?;
    println!("| {} findings as | time | peak memory | size |\n| --- | ---: | ---: | ---: |", 2 * MISSING);
    let out = PathBuf::from("target/corpora/result");
    row("nothing", &folder, &["--quiet"], None, runs)?;
    for format in FORMATS {
        let output = format!("{format}:{}", out.display());
        // SARIF is limited unless more is asked for; text is not.
        let mut options = vec!["--quiet", "--output", &output];
        if format == "sarif" {
            options.extend(["--limit", "1000000"]);
        }
        row(format, &folder, &options, Some(&out), runs)?;
    }
    println!(
        "\n| services | findings | page | written in | shown after | a search |\n| ---: | ---: | ---: | ---: | ---: | ---: |"
    );
    for &services in sizes {
        page(services, runs)?;
    }
    Ok(())
}

fn row(format: &str, folder: &Path, options: &[&str], out: Option<&Path>, runs: usize) -> io::Result<()> {
    let results: Vec<_> =
        (0..=runs).map(|_| process(audit_of(folder).args(options))).collect::<Result<_, _>>()?;
    let time = median(results.iter().skip(1).map(|run| run.time.as_secs_f64()));
    let peak = median(results.iter().map(|run| run.peak as f64 / 1024.0));
    let size = out.map_or(0, |out| fs::metadata(out).map_or(0, |file| file.len()));
    println!("| {format} | {time:.2} s | {peak:.0} MB | {:.1} MB |", size as f64 / 1e6);
    Ok(())
}

/// How large the page of a workspace is, how long it takes to show, and how long a search in it takes.
fn page(services: usize, runs: usize) -> io::Result<()> {
    let folder = PathBuf::from(format!("target/corpora/{services}-page"));
    if !folder.join("expected.txt").exists() {
        corpus::write(&folder, Made { services, faults: 16, stages: 0, seed: 1 }.files())?;
    }
    let file = PathBuf::from("target/corpora").canonicalize()?.join("page.html");
    let write = || {
        let mut command = Command::new("target/release/corvant");
        process(command.arg("report").arg(&folder).arg("--output").arg(&file))
    };
    let written: Vec<_> = (0..=runs).map(|_| write()).collect::<Result<_, _>>()?;
    let written = median(written.iter().skip(1).map(|run| run.time.as_secs_f64()));
    let size = fs::metadata(&file)?.len();
    let program = browser::installed().ok_or_else(|| io::Error::other("no browser is installed"))?;
    let (mut shown, mut searched, mut findings) = (Vec::new(), Vec::new(), String::new());
    for _ in 0..runs {
        let mut browser = Browser::start(&program, 1280, 800);
        browser.open(&file, "");
        let number = |browser: &mut Browser, of: &str| browser.value(of).as_f64().unwrap_or_default();
        shown.push(number(&mut browser, "performance.getEntriesByName('shown')[0].startTime"));
        searched.push(number(
            &mut browser,
            "(() => { const query = document.getElementById('query'); const start = performance.now(); query.value = 'depot'; query.dispatchEvent(new Event('input')); document.getElementById('hits').getBoundingClientRect(); return performance.now() - start; })()",
        ));
        findings = browser.text("String(D.findings.rule.length)");
    }
    println!(
        "| {services} | {findings} | {:.1} MB | {written:.2} s | {:.2} s | {:.0} ms |",
        size as f64 / 1e6,
        median(shown.into_iter()) / 1e3,
        median(searched.into_iter())
    );
    Ok(())
}
