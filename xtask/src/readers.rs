//! What readers cost: a custom reader beside Corvant's own format, and a folder of jars.

use crate::bench::{audit_of, build, median, process};
use crate::corpus;
use corvant_testing::corpus::Made;
use corvant_testing::house::house;
use std::io;
use std::path::{Path, PathBuf};

/// Audits the same definitions in Corvant's own format and through a custom reader, in turn; then a folder of jars.
pub(crate) fn run(services: usize, runs: usize, jars: Option<&Path>) -> io::Result<()> {
    build()?;
    let made = || Made { services, faults: 0, stages: 0, seed: 1 };
    let native = PathBuf::from(format!("target/corpora/{services}-clean"));
    let custom = PathBuf::from(format!("target/corpora/{services}-custom"));
    if !native.join("expected.txt").exists() {
        corpus::write(&native, made().files())?;
    }
    if !custom.join("expected.txt").exists() {
        corpus::write(&custom, house(made()))?;
    }
    let (mut own, mut house) = (Vec::new(), Vec::new());
    for number in 0..=runs {
        let one = process(&mut audit_of(&native))?;
        let other = process(&mut audit_of(&custom))?;
        // The first run of each warms the cache.
        if number > 0 {
            own.push(one.time.as_secs_f64() * 1e3);
            house.push(other.time.as_secs_f64() * 1e3);
        }
    }
    let ratio = median(own.iter().zip(&house).map(|(own, house)| house / own));
    println!(
        "{services} services: own format {:.0} ms, custom reader {:.0} ms, ratio {ratio:.2}",
        median(own.into_iter()),
        median(house.into_iter())
    );
    let Some(jars) = jars else { return Ok(()) };
    let runs: Vec<_> = (0..=runs).map(|_| process(&mut audit_of(jars))).collect::<Result<_, _>>()?;
    let peak = runs.iter().map(|run| run.peak).max().unwrap_or(0);
    let time = median(runs.iter().skip(1).map(|run| run.time.as_secs_f64() * 1e3));
    println!("{}: {time:.0} ms, {} MB at most", jars.display(), peak / 1024);
    Ok(())
}
