//! Made corpora, benchmarks and pictures: `cargo xtask --help`.

mod bench;
mod changes;
mod code;
mod corpus;
mod dependencies;
mod document;
mod hostile;
mod readers;
mod release;
mod results;
mod screenshots;
mod script;
mod shapes;
mod start;
mod syntaxes;

use clap::Parser;
use corvant_testing::corpus::Made;
use mimalloc::MiMalloc;
use std::path::PathBuf;

/// What is timed here in one process takes its memory as the program does.
#[global_allocator]
static MEMORY: MiMalloc = MiMalloc;

/// Chores of Corvant's maintainers.
#[derive(Debug, Parser)]
#[command(name = "cargo xtask")]
enum Chore {
    /// Write a made workspace to a folder.
    Corpus {
        /// Where to.
        folder: PathBuf,
        /// About how many services.
        #[arg(long, default_value_t = 10_000)]
        services: usize,
        /// With faults, one file in eight.
        #[arg(long)]
        faulty: bool,
        /// With so many stages.
        #[arg(long, default_value_t = 0)]
        stages: usize,
        /// The same seed makes the same text.
        #[arg(long, default_value_t = 1)]
        seed: u64,
    },
    /// Measure whole audits beside the bare walk, read and parse of the same files and beside a script; then
    /// shapes that bring naive code down, and what each syntax costs. Needs Python 3.
    Bench {
        /// Sizes, in services; each is measured clean, faulty and with 20 stages.
        #[arg(long, value_delimiter = ',', default_values_t = [1_000, 10_000, 100_000, 1_000_000])]
        sizes: Vec<usize>,
        /// Measure only these parts.
        #[arg(long, value_delimiter = ',', value_enum, default_values_t = [bench::Part::Sizes, bench::Part::Shapes, bench::Part::Syntaxes])]
        parts: Vec<bench::Part>,
        /// Runs of each, in turn.
        #[arg(long, default_value_t = 7)]
        runs: usize,
        /// Write the tables into docs/performance.md.
        #[arg(long)]
        write: bool,
    },
    /// Measure a custom reader beside Corvant's own format, and the audit of a folder of jars.
    Readers {
        /// How many services.
        #[arg(long, default_value_t = 100_000)]
        services: usize,
        /// Runs of each, in turn.
        #[arg(long, default_value_t = 7)]
        runs: usize,
        /// A folder of jars, such as `xtask/real-data/jars` makes.
        #[arg(long)]
        jars: Option<PathBuf>,
    },
    /// Measure the audit of source files whose constructors are the wiring.
    Code {
        /// How many files of each language are made.
        #[arg(long, default_value_t = 10_000)]
        files: usize,
        /// In which languages.
        #[arg(long, value_delimiter = ',', value_enum, default_values_t = [code::Made::Java, code::Made::Php])]
        languages: Vec<code::Made>,
        /// Source from elsewhere, such as that of a platform.
        #[arg(long)]
        folder: Option<PathBuf>,
        /// A folder of jars, for the types in them: with nothing kept of them, and with what the run before kept.
        #[arg(long)]
        jars: Option<PathBuf>,
        /// Runs of each.
        #[arg(long, default_value_t = 7)]
        runs: usize,
    },
    /// Measure the comparison of two revisions beside one audit.
    Changes {
        /// How many services.
        #[arg(long, default_value_t = 100_000)]
        services: usize,
        /// Runs of each, in turn.
        #[arg(long, default_value_t = 5)]
        runs: usize,
    },
    /// Measure how well readers are drafted for files that nobody taught, and how fast.
    Start {
        /// How many items, for the times.
        #[arg(long, default_value_t = 100_000)]
        items: usize,
        /// Runs of each.
        #[arg(long, default_value_t = 3)]
        runs: usize,
        /// Print the drafts of those with this in their names.
        #[arg(long)]
        show: Option<String>,
        /// Houses to measure instead, each a folder with the `corvant.toml` that a team would write.
        #[arg(long)]
        from: Option<PathBuf>,
    },
    /// Measure very many findings in every format, and pages of large workspaces in a browser (Debian: chromium).
    Results {
        /// Sizes of the pages, in services.
        #[arg(long, value_delimiter = ',', default_values_t = [10_000, 100_000])]
        sizes: Vec<usize>,
        /// Runs of each.
        #[arg(long, default_value_t = 5)]
        runs: usize,
    },
    /// Read and parse every manifest below a folder and do nothing with it: what an audit cannot do without.
    #[command(hide = true)]
    Bare { folder: PathBuf },
    /// Drive the program over hostile workspaces of every kind, made anew, and say what it does wrong.
    Hostile {
        /// The program.
        #[arg(long, default_value = "target/release/corvant")]
        program: PathBuf,
        /// How many workspaces.
        #[arg(long, default_value_t = 1_000)]
        rounds: u64,
        /// The first of them; the same number makes the same workspace.
        #[arg(long, default_value_t = 0)]
        from: u64,
    },
    /// Check that dependencies are what deny.toml allows.
    Dependencies,
    /// Pack a tarball and a Debian package: program, manual, completions, licences.
    Release {
        /// Pack this program instead of building one.
        #[arg(long)]
        program: Option<PathBuf>,
        /// Where to.
        #[arg(long, default_value = "target/release-packages")]
        output: PathBuf,
    },
    /// Make docs/screenshots anew, from the demo in a real terminal window.
    Screenshots,
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    match Chore::parse() {
        Chore::Corpus { folder, services, faulty, stages, seed } => {
            corpus::write(&folder, Made { services, faults: usize::from(faulty), stages, seed }.files())?;
        }
        Chore::Bench { sizes, parts, runs, write } => bench::run(&sizes, &parts, runs, write)?,
        Chore::Readers { services, runs, jars } => readers::run(services, runs, jars.as_deref())?,
        Chore::Code { files, languages, folder, jars, runs } => {
            code::run(files, &languages, folder.as_deref(), jars.as_deref(), runs)?;
        }
        Chore::Changes { services, runs } => changes::run(services, runs)?,
        Chore::Start { runs, show, from: Some(from), .. } => start::houses(&from, runs, show.as_deref())?,
        Chore::Start { items, runs, show, from: None } => start::run(items, runs, show.as_deref())?,
        Chore::Results { sizes, runs } => results::run(&sizes, runs)?,
        Chore::Bare { folder } => bench::bare(&folder),
        Chore::Hostile { program, rounds, from } => hostile::run(&program, from..from + rounds)?,
        Chore::Dependencies => dependencies::check()?,
        Chore::Release { program, output } => release::make(program.as_deref(), &output)?,
        Chore::Screenshots => screenshots::make()?,
    }
    Ok(())
}
