//! How many threads work.

use crate::exit::CommandError;
use std::env;
use std::thread::available_parallelism;

/// Threads beside those that a machine has processors for: fewer than this many of them do no harm.
const FEW: usize = 16;
/// More threads for each processor only wait for one another.
const EACH: usize = 4;

/// Sets as many threads to work as are asked for, by an option or by the library's own variable, but never so many that
/// they keep one another from working.
pub(crate) fn begin(asked: Option<u16>) -> Result<(), CommandError> {
    let processors = available_parallelism().map_or(1, usize::from);
    let said = env::var("RAYON_NUM_THREADS").ok().and_then(|count| count.parse().ok());
    let count = count(asked.map(usize::from).or(said), processors);
    let pool = rayon::ThreadPoolBuilder::new().num_threads(count);
    pool.build_global().map_err(|error| CommandError::Threads(error.to_string()))
}

fn count(asked: Option<usize>, processors: usize) -> usize {
    asked.filter(|&count| count > 0).unwrap_or(processors).min(FEW.max(EACH * processors))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    #[rstest]
    #[case::nothing_asked(None, 2, 2)]
    #[case::one(Some(1), 8, 1)]
    #[case::none(Some(0), 8, 8)]
    #[case::some_more(Some(8), 2, 8)]
    #[case::too_many(Some(100_000), 2, 16)]
    #[case::too_many_for_many(Some(100_000), 64, 256)]
    fn there_are_never_too_many(
        #[case] asked: Option<usize>,
        #[case] processors: usize,
        #[case] expected: usize,
    ) {
        assert_eq!(super::count(asked, processors), expected);
    }
}
