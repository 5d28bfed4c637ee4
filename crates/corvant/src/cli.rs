//! The arguments of the program.

use clap::{Args, Parser, Subcommand, ValueEnum};
use corvant_core::finding::Severity;
use corvant_core::near::nearest;
use corvant_core::rules::{RULES, Rule};
use corvant_read::native::workspace_file;
use std::path::PathBuf;

/// Audits the wiring of large systems before they start.
///
/// Reads the service definitions of all modules below a folder, links them into one graph, and says what is
/// missing, circular, unused, mistagged or ambiguous: each with file, line and remedy. Executes nothing it
/// audits, and sends nothing anywhere.
#[derive(Debug, Parser)]
#[command(name = "corvant", version, max_term_width = 100, after_long_help = EXAMPLES)]
pub(crate) struct Arguments {
    /// How many threads work [default: one for each processor].
    #[arg(long, global = true, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=1024))]
    pub(crate) threads: Option<u16>,
    #[command(subcommand)]
    pub(crate) command: Command,
}

const EXAMPLES: &str = "\
Examples:
  corvant demo                     see an audit of a tram network with some faults in it
  corvant audit                    audit the folder you are in
  corvant audit services --format json --output wiring.json
  corvant audit --fail-on warning  fail on warnings too, as in a strict pipeline

Exit status: 0 nothing found at or above the failing severity, 1 findings, 2 called wrongly,
corvant.toml cannot be used, or nothing to audit was found, 3 the program failed.";

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Is this safe to deploy? Audits all manifests below a folder.
    #[command(after_long_help = AUDIT_EXAMPLES)]
    Audit {
        /// The folder to audit.
        #[arg(default_value = ".", value_name = "ROOT")]
        root: PathBuf,
        /// Do not audit: say of each file who reads it, what is taken from it and what is left over.
        #[arg(long, conflicts_with_all = ["fail_on", "stage", "rules", "today"])]
        explain_readers: bool,
        #[command(flatten)]
        options: AuditOptions,
    },
    /// Audits a workspace that is built into the program: the tram network of Velmora.
    #[command(after_long_help = DEMO_EXAMPLES)]
    Demo {
        /// Write the workspace to this folder instead, to play with.
        #[arg(long, value_name = "DIR", conflicts_with_all = ["format", "output", "quiet", "fail_on", "stage", "rules"])]
        write: Option<PathBuf>,
        /// The same workspace with every fault mended.
        #[arg(long)]
        mended: bool,
        #[command(flatten)]
        options: AuditOptions,
    },
    /// Records today's findings as allowances in the workspace file, so that CI fails on new ones only.
    #[command(after_long_help = ACCEPT_EXAMPLES)]
    Accept {
        /// The folder to audit.
        #[arg(default_value = ".", value_name = "ROOT")]
        root: PathBuf,
        #[command(flatten)]
        options: AcceptOptions,
    },
    /// What is checked, and why.
    #[command(after_long_help = RULES_EXAMPLES)]
    Rules {
        /// One rule, whole: why it matters, what it does not report, an example.
        name: Option<String>,
        #[command(flatten)]
        writing: Writing,
    },
    /// JSON Schema of the manifest, the workspace file or the JSON report, for editors and other tools.
    #[command(after_long_help = SCHEMA_EXAMPLES)]
    Schema {
        /// Which one.
        #[arg(value_enum)]
        what: SchemaOf,
        /// Write it to a file instead of standard output.
        #[arg(long, short, value_name = "FILE")]
        output: Option<PathBuf>,
    },
    /// A script that completes commands and options, for a shell to read.
    #[command(after_long_help = COMPLETIONS_EXAMPLES)]
    Completions {
        /// The shell.
        #[arg(value_enum)]
        shell: clap_complete::Shell,
    },
    /// The manual page, in the format of man(1).
    #[command(after_long_help = MANUAL_EXAMPLES)]
    Manual,
}

const AUDIT_EXAMPLES: &str = "\
Examples:
  corvant audit                          the folder you are in
  corvant audit modules --stage drill    one stage only
  corvant audit --format json | jq .summary
  corvant audit --explain-readers        while teaching a reader: what it takes, and what it leaves
  corvant audit --rule unused-use=off --rule hidden-need=warning
  corvant audit --fail-on never          look, but do not fail";

const ACCEPT_EXAMPLES: &str = "\
Examples:
  corvant accept --dry-run               show what would be recorded
  corvant accept --reason 'before the spring timetable' --until 2027-04-30
  corvant accept --down-to error         leave warnings to be reported";

const SCHEMA_EXAMPLES: &str = "\
Examples:
  corvant schema manifest --output wiring.schema.json
  corvant schema workspace | jq .properties.rules
  corvant schema report                  what `audit --format json` writes";

const COMPLETIONS_EXAMPLES: &str = "\
Examples:
  corvant completions bash > ~/.local/share/bash-completion/completions/corvant
  corvant completions fish > ~/.config/fish/completions/corvant.fish";

const MANUAL_EXAMPLES: &str = "\
Examples:
  corvant manual | man -l -              read it
  corvant manual > /usr/local/share/man/man1/corvant.1";

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
    #[command(flatten)]
    pub(crate) looking: Looking,
    /// The least severity that fails the audit [default: error].
    #[arg(long, value_enum, value_name = "SEVERITY")]
    pub(crate) fail_on: Option<FailOn>,
}

#[derive(Debug, Args)]
pub(crate) struct AcceptOptions {
    /// Why the findings are accepted [default: that and when they were recorded].
    #[arg(long, value_name = "TEXT")]
    pub(crate) reason: Option<String>,
    /// The last day they are accepted, as YYYY-MM-DD [default: no last day].
    #[arg(long, value_name = "DAY", value_parser = parse_day)]
    pub(crate) until: Option<String>,
    /// The least severity that is recorded.
    #[arg(long, value_enum, value_name = "SEVERITY", default_value_t = DownTo::Warning)]
    pub(crate) down_to: DownTo,
    /// Show what would be recorded, and write nothing.
    #[arg(long)]
    pub(crate) dry_run: bool,
    #[command(flatten)]
    pub(crate) looking: Looking,
}

/// What an audit looks at, and how strictly.
#[derive(Debug, Args)]
pub(crate) struct Looking {
    /// Audit this stage only; otherwise every stage, and none.
    #[arg(long, value_name = "NAME")]
    pub(crate) stage: Option<String>,
    /// The severity of a rule in place of what the workspace file says: error, warning, note or off.
    #[arg(long = "rule", value_name = "NAME=SEVERITY", value_parser = parse_rule)]
    pub(crate) rules: Vec<(&'static str, Option<Severity>)>,
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

fn parse_rule(text: &str) -> Result<(&'static str, Option<Severity>), String> {
    let (name, word) = text.split_once('=').ok_or("write it as NAME=SEVERITY")?;
    let rule = find_rule(name)?;
    let known = workspace_file::SEVERITIES.iter().find(|(known, _)| *known == word);
    let severity = known.ok_or_else(|| format!("{word} is none of error, warning, note, off"))?.1;
    Ok((rule.name, severity))
}

/// A rule by its name; otherwise what to say instead.
pub(crate) fn find_rule(name: &str) -> Result<&'static Rule, String> {
    let names: Vec<&str> = RULES.iter().map(|rule| rule.name).collect();
    RULES.iter().copied().find(|rule| rule.name == name).ok_or_else(|| {
        let meant = nearest(&[name], &names)[0].map(|at| format!("; did you mean {}?", names[at]));
        format!("there is no rule {name}{}", meant.unwrap_or_default())
    })
}

/// What there is a JSON Schema of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum SchemaOf {
    /// Manifests in Corvant's own format.
    Manifest,
    /// The workspace file, corvant.toml.
    Workspace,
    /// The JSON report.
    Report,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum DownTo {
    Error,
    Warning,
    Note,
}

impl DownTo {
    pub(crate) fn severity(self) -> Severity {
        match self {
            Self::Error => Severity::Error,
            Self::Warning => Severity::Warning,
            Self::Note => Severity::Note,
        }
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
