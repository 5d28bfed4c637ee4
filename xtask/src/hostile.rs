//! Many hostile workspaces, as many at a time as there are processors.

use corvant_testing::hostile::attack;
use rayon::prelude::*;
use std::io;
use std::ops::Range;
use std::path::Path;

/// Drives the program over the workspaces of some rounds.
pub(crate) fn run(program: &Path, rounds: Range<u64>) -> io::Result<()> {
    let program = program.canonicalize()?;
    let count = rounds.end - rounds.start;
    let wrong: Vec<String> = rounds
        .into_par_iter()
        .map(|round| {
            let folder = tempfile::tempdir()?;
            attack(&program, folder.path(), round)
        })
        .collect::<io::Result<Vec<_>>>()?
        .concat();
    for what in &wrong {
        println!("{what}");
    }
    println!("{count} hostile workspaces; {} things are wrong", wrong.len());
    if wrong.is_empty() { Ok(()) } else { Err(io::Error::other("the program does not withstand them all")) }
}
