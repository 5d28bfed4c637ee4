//! The arguments of the program.

use clap::{Args, Parser, Subcommand, ValueEnum};
use corvant_core::finding::Severity;
use std::path::PathBuf;

/// Audits the wiring of large systems before they start.
///
/// Reads the service definitions of all modules below a folder, links them into one graph, and says what is
/// missing, circular, unused, mistagged or ambiguous: each with file, line and remedy. Executes nothing it
/// audits, and sends nothing anywhere.
#[derive(Debug, Parser)]
#[command(name = "corvant", version, max_term_width = 100, after_long_help = EXAMPLES)]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,
}

const EXAMPLES: &str = "\
Examples:
  corvant demo                     see an audit of a tram network with some faults in it
  corvant audit                    audit the folder you are in
  corvant audit services --format json --output wiring.json
  corvant audit --fail-on warning  fail on warnings too, as in a strict pipeline

Exit status: 0 nothing found at or above the failing severity, 1 findings, 2 called wrongly or nothing to
audit, 3 the program failed.";

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Is this safe to deploy? Audits all manifests below a folder.
    #[command(after_long_help = AUDIT_EXAMPLES)]
    Audit {
        /// The folder to audit.
        #[arg(default_value = ".", value_name = "ROOT")]
        root: PathBuf,
        #[command(flatten)]
        options: AuditOptions,
    },
    /// What is checked, and why.
    #[command(after_long_help = RULES_EXAMPLES)]
    Rules {
        /// One rule, whole: why it matters, what it does not report, an example.
        name: Option<String>,
        #[command(flatten)]
        writing: Writing,
    },
    /// Audits a workspace that is built into the program: the tram network of Velmora.
    #[command(after_long_help = DEMO_EXAMPLES)]
    Demo {
        /// Write the workspace to this folder instead, to play with.
        #[arg(long, value_name = "DIR", conflicts_with_all = ["format", "output", "quiet", "fail_on", "stage"])]
        write: Option<PathBuf>,
        /// The same workspace with every fault mended.
        #[arg(long)]
        mended: bool,
        #[command(flatten)]
        options: AuditOptions,
    },
}

const AUDIT_EXAMPLES: &str = "\
Examples:
  corvant audit                          the folder you are in
  corvant audit modules --stage drill    one stage only
  corvant audit --format json | jq .summary
  corvant audit --fail-on never          look, but do not fail";

const RULES_EXAMPLES: &str = "\
Examples:
  corvant rules                          all rules, one line each
  corvant rules missing-service          one of them, with an example that shows it
  corvant rules --format json            for programs";

const DEMO_EXAMPLES: &str = "\
Examples:
  corvant demo                           the audit as you would see it
  corvant demo --mended                  the same network without its faults
  corvant demo --write velmora           put it on disk, then: corvant audit velmora";

/// How and where results are written.
#[derive(Debug, Args)]
pub(crate) struct Writing {
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
    /// Write the result to a file instead of standard output.
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// Write nothing to standard output: the exit status says it all.
    #[arg(long, short)]
    pub(crate) quiet: bool,
    /// When to use colour; NO_COLOR is respected.
    #[arg(long, value_enum, default_value_t = Color::Auto, value_name = "WHEN")]
    pub(crate) color: Color,
}

#[derive(Debug, Args)]
pub(crate) struct AuditOptions {
    #[command(flatten)]
    pub(crate) writing: Writing,
    /// Audit this stage only; otherwise every stage, and none.
    #[arg(long, value_name = "NAME")]
    pub(crate) stage: Option<String>,
    /// The least severity that fails the audit [default: error].
    #[arg(long, value_enum, value_name = "SEVERITY")]
    pub(crate) fail_on: Option<FailOn>,
    /// The day that the last days of allowances are held against, as YYYY-MM-DD [default: today].
    #[arg(long, value_name = "DAY", value_parser = parse_day)]
    pub(crate) today: Option<String>,
}

fn parse_day(text: &str) -> Result<String, String> {
    if corvant_read::native::is_day(text) {
        Ok(text.to_owned())
    } else {
        Err("write it as YYYY-MM-DD".to_owned())
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Format {
    /// For people.
    Text,
    /// For programs: the JSON report, version 1.
    Json,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Color {
    /// On a terminal.
    Auto,
    Always,
    Never,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    Error,
    Warning,
    Note,
    Never,
}

impl FailOn {
    pub(crate) fn severity(self) -> Option<Severity> {
        match self {
            Self::Error => Some(Severity::Error),
            Self::Warning => Some(Severity::Warning),
            Self::Note => Some(Severity::Note),
            Self::Never => None,
        }
    }
}
