//! The arguments of the program.

use crate::complete;
use clap::builder::{PossibleValuesParser, TypedValueParser};
use clap::{Args, Parser, Subcommand, ValueEnum};
use clap_complete::engine::ArgValueCandidates;
use corvant_core::answers::Kind;
use corvant_core::answers::picture::Direction;
use corvant_core::finding::RuleText;
use corvant_core::finding::Severity;
use corvant_core::near::nearest;
use corvant_core::rules::TEXTS;
use corvant_read::native::workspace_file;
use corvant_render::text::By;
use std::num::NonZeroUsize;
use std::path::{Path, PathBuf};

/// Audits the wiring of large systems before they start.
///
/// Reads the service definitions of all modules below a folder, links them into one graph, and says what is
/// missing, circular, unused, mistagged or ambiguous: each with file, line and remedy. Executes nothing it
/// audits, and sends nothing anywhere.
#[derive(Debug, Parser)]
#[command(name = "corvant", version, max_term_width = 100, after_long_help = EXAMPLES)]
pub(crate) struct Arguments {
    /// How many threads work, up to a few for each processor [default: one for each].
    #[arg(long, global = true, display_order = 900, value_name = "N", value_parser = clap::value_parser!(u16).range(1..=1024))]
    pub(crate) threads: Option<u16>,
    #[command(subcommand)]
    pub(crate) command: Command,
}

const EXAMPLES: &str = "\
Examples:
  corvant demo                     see an audit of a tram network with some faults in it
  corvant audit                    audit the folder you are in
  corvant audit services --output wiring.json --output wiring.sarif
  corvant report                   the workspace as a page to look around in
  corvant audit --fail-on warning  fail on warnings too, as in a strict pipeline

Exit status: 0 nothing found at or above the failing severity, 1 findings, 2 called wrongly,
corvant.toml cannot be used, or nothing to audit was found, 3 the program failed.";

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Is this safe to deploy? Audits all manifests below a folder.
    #[command(after_long_help = AUDIT_EXAMPLES)]
    Audit {
        /// The folder to audit; with --tree a file in it.
        #[arg(default_value = ".", value_name = "ROOT")]
        root: PathBuf,
        /// Do not audit: say of each file who reads it, what is taken from it and what is left over.
        #[arg(long, conflicts_with_all = ["fail_on", "since", "stage", "rules", "today", "by", "limit"])]
        explain_readers: bool,
        /// Say it of the files of this reader alone.
        #[arg(long, requires = "explain_readers", value_name = "NAME")]
        reader: Option<String>,
        /// ROOT is a file: show what its reader sees of it, with what is taken.
        #[arg(long, requires = "explain_readers", conflicts_with = "reader")]
        tree: bool,
        #[command(flatten)]
        options: AuditOptions,
    },
    /// One service, contract, tag, setting, provider, module or entry, with all that is known of it.
    #[command(after_long_help = SHOW_EXAMPLES)]
    Show {
        /// What to show, by name.
        #[arg(add = ArgValueCandidates::new(complete::names))]
        name: String,
        /// What it is, where things of several kinds have the name.
        #[arg(long, value_parser = kinds(), value_name = "KIND")]
        kind: Option<Kind>,
        #[command(flatten)]
        asking: Asking,
    },
    /// Every place where a name is written: defined, needed, tagged, chosen, listed, allowed.
    #[command(after_long_help = FIND_EXAMPLES)]
    Find {
        /// A part of the name.
        #[arg(add = ArgValueCandidates::new(complete::names))]
        text: String,
        /// Take the text for a regular expression.
        #[arg(long, conflicts_with = "whole")]
        regex: bool,
        /// The text is the whole name.
        #[arg(long)]
        whole: bool,
        #[command(flatten)]
        asking: Asking,
    },
    /// How one thing comes to depend on another.
    #[command(after_long_help = WHY_EXAMPLES)]
    Why {
        /// What depends: a service, an entry, a provider, a module; `KIND:NAME` where several kinds have the name.
        #[arg(add = ArgValueCandidates::new(complete::names))]
        from: String,
        /// What it depends on: one of those, a contract or a tag.
        #[arg(add = ArgValueCandidates::new(complete::names))]
        to: String,
        /// Show so many chains at most, the shortest first.
        #[arg(long, value_name = "N", default_value = "1")]
        limit: NonZeroUsize,
        #[command(flatten)]
        asking: Asking,
    },
    /// In which order things are registered and built.
    #[command(after_long_help = ORDER_EXAMPLES)]
    Order {
        /// Only what this entry comes to use.
        #[arg(add = ArgValueCandidates::new(complete::entries))]
        entry: Option<String>,
        #[command(flatten)]
        asking: Asking,
    },
    /// What stops working if something goes: at start-up, at first use, or not at all.
    #[command(after_long_help = IMPACT_EXAMPLES)]
    Impact {
        /// What goes, by name; several go together.
        #[arg(required = true, add = ArgValueCandidates::new(complete::names))]
        names: Vec<String>,
        /// What they are, where things of several kinds have a name.
        #[arg(long, value_parser = kinds(), value_name = "KIND")]
        kind: Option<Kind>,
        #[command(flatten)]
        asking: Asking,
    },
    /// The graph, whole or around a name, as text, as a picture, or in open formats.
    #[command(after_long_help = GRAPH_EXAMPLES)]
    Graph {
        /// Only what is around this.
        #[arg(add = ArgValueCandidates::new(complete::names))]
        name: Option<String>,
        #[command(flatten)]
        drawing: Drawing,
    },
    /// What another state of a workspace changes in its wiring, and what follows.
    #[command(after_long_help = COMPARE_EXAMPLES)]
    Compare {
        /// The state before: a folder, or a revision of the repository; A...B is B against the common ancestor.
        old: String,
        /// The state now [default: what lies in the folder].
        new: Option<String>,
        #[command(flatten)]
        options: CompareOptions,
    },
    /// What a change that nobody has made would change, and what would follow.
    #[command(after_long_help = SUPPOSE_EXAMPLES)]
    Suppose {
        #[command(flatten)]
        changes: SupposedChanges,
        #[command(flatten)]
        options: CompareOptions,
    },
    /// Audits a workspace that is built into the program: the tram network of Velmora.
    #[command(after_long_help = DEMO_EXAMPLES)]
    Demo {
        /// Write the workspace to this folder instead, to play with.
        #[arg(long, value_name = "DIR", conflicts_with_all = ["format", "output", "by", "limit", "quiet", "fail_on", "since", "stage", "rules"])]
        write: Option<PathBuf>,
        /// Write it as a repository with a year of changes, of which the last brings the faults.
        #[arg(long, requires = "write", conflicts_with = "fixed")]
        history: bool,
        /// The same workspace with every fault corrected.
        #[arg(long)]
        fixed: bool,
        #[command(flatten)]
        options: AuditOptions,
    },
    /// The whole workspace as one page for a browser: findings, services, modules, cycles.
    #[command(after_long_help = REPORT_EXAMPLES)]
    Report {
        /// The folder to audit.
        #[arg(default_value = ".", value_name = "ROOT")]
        root: PathBuf,
        /// The page to write.
        #[arg(long, short, value_name = "FILE", default_value = "corvant-report.html")]
        output: PathBuf,
        #[command(flatten)]
        looking: Looking,
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
    /// Drafts a first workspace file for what is found in a folder, and says what an audit with it finds.
    #[command(after_long_help = START_EXAMPLES)]
    Start {
        /// The folder to look through.
        #[arg(default_value = ".", value_name = "ROOT")]
        root: PathBuf,
        /// Write the draft to corvant.toml, unless there is one.
        #[arg(long, conflicts_with = "output")]
        write: bool,
        /// Write the draft to a file that is not there yet; - is standard output.
        #[arg(long, short, value_name = "FILE")]
        output: Option<PathBuf>,
        #[command(flatten)]
        screen: Screen,
    },
    /// Shows, and with --write makes, the edits that take findings away.
    #[command(after_long_help = FIX_EXAMPLES)]
    Fix {
        /// The folder to audit.
        #[arg(default_value = ".", value_name = "ROOT")]
        root: PathBuf,
        #[command(flatten)]
        options: FixOptions,
    },
    /// What is checked, and why.
    #[command(after_long_help = RULES_EXAMPLES)]
    Rules {
        /// One rule, whole: why it matters, what it does not report, an example.
        name: Option<String>,
        #[command(flatten)]
        writing: Writing,
    },
    /// JSON Schema of the manifest, the workspace file or any JSON document that is written, for other tools.
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
  corvant audit --output wiring.sarif --output wiring.junit.xml --output wiring.md
                                         text here, and three files for a pipeline
  corvant audit --since main             only what is new on this branch, as a gate for a change
  corvant audit --by rule                counts, and the worst of each rule
  corvant audit --limit 20               the twenty worst, with the count of all
  corvant audit --explain-readers        while describing a reader: what it takes, and what it leaves
  corvant audit --explain-readers --tree modules/depot/objects.yaml
                                         the file as its reader sees it
  corvant audit --rule unused-use=off --rule hidden-need=warning
  corvant audit --fail-on never          look, but do not fail";

const COMPARE_EXAMPLES: &str = "\
Examples:
  corvant compare main                   what this branch changes, with what is not committed yet
  corvant compare main...HEAD            the same, of what is committed since they parted
  corvant compare v1.4 v1.5 --format json
  corvant compare old/ new/              two folders
  corvant compare main --format markdown --output comment.md
  corvant compare main --format html --output change.html

Exit status: 1 if findings at or above the failing severity are new or worse; with --exit-on-change if
anything is another.";

const SUPPOSE_EXAMPLES: &str = "\
Examples:
  corvant suppose --remove vehicles.store
  corvant suppose --choose PassengerChannel=passenger.channel.app --lazy signals.points.routes
  corvant suppose --lifetime timetable.request-log=process --disable museum
  corvant suppose --load vehicles.provider,signals.provider

Nothing is written: where it is certain what the files would have to say, the edits are shown.";

const REPORT_EXAMPLES: &str = "\
Examples:
  corvant report                         writes corvant-report.html, to be opened in a browser
  corvant report modules --stage production --output production.html

The page is one file: it loads nothing, works from disk, and can be sent to others.";

const ACCEPT_EXAMPLES: &str = "\
Examples:
  corvant accept --dry-run               show what would be recorded
  corvant accept --reason 'before the spring timetable' --until 2027-04-30
  corvant accept --min-severity error    leave warnings to be reported";

const START_EXAMPLES: &str = "\
Examples:
  corvant start                          what is there, and what an audit would find
  corvant start --output -               the draft, with what speaks for each of its lines
  corvant start --write                  write it to corvant.toml, then: corvant audit

Nothing is known by its name: what holds definitions, what they are called and what refers to them is drawn
from the files themselves. Lines that nothing speaks for are left in comments.

Exit status: 0 if there is something to audit, 2 if nothing is found that looks like definitions.";

const FIX_EXAMPLES: &str = "\
Examples:
  corvant fix                            what it would change, as a patch; nothing is written
  corvant fix --write                    make the edits that are certain
  corvant fix --write --likely           those too of which there is more than one way
  corvant fix --rule missing-service --subject vehicles.flet
  corvant fix > wiring.patch             and later: git apply wiring.patch

Before anything is shown or written the edited texts are audited in memory: an edit that leaves its
finding, or brings another, is left out and named. Paths in a patch are relative to ROOT.

Exit status: without --write 1 if there is anything to change, else 0; with it 0 once all is written.";

const SCHEMA_EXAMPLES: &str = "\
Examples:
  corvant schema manifest --output wiring.schema.json
  corvant schema workspace | jq .properties.rules
  corvant schema report                  what `audit --format json` writes
  corvant schema show                    what `show --format json` writes";

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
  corvant demo --fixed                   the same network without its faults
  corvant demo --write velmora           put it on disk, then: corvant audit velmora
  corvant demo --write velmora --history with a year of changes, then in it: corvant compare HEAD~1";

const SHOW_EXAMPLES: &str = "\
Examples:
  corvant show timetable.board
  corvant show Clock --kind contract     where several kinds have the name
  corvant show vehicles.fleet --stage production --format json";

const FIND_EXAMPLES: &str = "\
Examples:
  corvant find fleet                     all names with fleet in them
  corvant find vehicles.fleet --whole
  corvant find '^depot\\..*-store$' --regex

Exit status: 1 if nothing is found.";

const WHY_EXAMPLES: &str = "\
Examples:
  corvant why open-gate vehicles.fleet
  corvant why timetable traction --limit 4
                                         two modules, and up to four chains

Exit status: 1 if the one does not depend on the other.";

const ORDER_EXAMPLES: &str = "\
Examples:
  corvant order                          all providers, then all services
  corvant order open-gate                only what this entry comes to use";

const IMPACT_EXAMPLES: &str = "\
Examples:
  corvant impact vehicles.fleet          if this service were gone
  corvant impact incidents --kind module
  corvant impact vehicles.fleet depot.gate --format json";

const GRAPH_EXAMPLES: &str = "\
Examples:
  corvant graph --by module --output modules.svg
  corvant graph timetable.board --depth 2 --output board.svg
  corvant graph vehicles.fleet --direction users
  corvant graph --only-cycles --format dot
  corvant graph --only-faults --output faults.svg

The ending of --output says the format: .svg, .dot, .mmd, .graphml, .json, .txt.";

/// Which workspace is asked about, and in which stage.
#[derive(Debug, Args)]
pub(crate) struct WorkspaceAt {
    /// The folder with the workspace.
    #[arg(long, default_value = ".", value_name = "DIR", hide_default_value = true)]
    pub(crate) root: PathBuf,
    /// In this stage; otherwise with none chosen.
    #[arg(long, value_name = "NAME", add = ArgValueCandidates::new(complete::stages))]
    pub(crate) stage: Option<String>,
    #[command(flatten)]
    pub(crate) caching: Caching,
}

/// Where that is kept which takes long to find: types in jars and source, and reports of what does not change.
#[derive(Debug, Default, Clone, Args)]
pub(crate) struct Caching {
    /// Keep here for the next time what takes long: the types found in jars and source, and the report of an audit, for as
    /// long as nothing it was made from is another [default: corvant in your cache folder].
    #[arg(long, value_name = "DIR", display_order = 901)]
    pub(crate) cache: Option<PathBuf>,
    /// Keep nothing, and look at nothing that was kept.
    #[arg(long, display_order = 902, conflicts_with = "cache")]
    pub(crate) no_cache: bool,
}

/// Which workspace is asked, and how the answer is written.
#[derive(Debug, Args)]
pub(crate) struct Asking {
    #[command(flatten)]
    pub(crate) place: WorkspaceAt,
    #[command(flatten)]
    pub(crate) writing: Writing,
}

/// What is drawn, and how.
#[derive(Debug, Args)]
pub(crate) struct Drawing {
    /// What the name is, where things of several kinds have it.
    #[arg(long, value_parser = kinds(), value_name = "KIND", requires = "name")]
    pub(crate) kind: Option<Kind>,
    /// How many steps from the name.
    #[arg(long, value_name = "N", default_value_t = 1, requires = "name")]
    pub(crate) depth: usize,
    /// In which direction from the name.
    #[arg(long, value_enum, value_name = "WHERE", default_value_t = Towards::Both, requires = "name")]
    pub(crate) direction: Towards,
    /// What a node is [default: service; module where services would be too many].
    #[arg(long, value_enum, value_name = "WHAT")]
    pub(crate) by: Option<NodeOf>,
    /// Only what needs itself: groups of nodes that need one another.
    #[arg(long)]
    pub(crate) only_cycles: bool,
    /// Only what findings blame, and its neighbours.
    #[arg(long)]
    pub(crate) only_faults: bool,
    /// How to write it [default: what --output ends with, else text].
    #[arg(long, value_enum)]
    pub(crate) format: Option<DrawnAs>,
    #[command(flatten)]
    pub(crate) place: WorkspaceAt,
    #[command(flatten)]
    pub(crate) to: To,
}

/// One of the kinds of things that have names.
fn kinds() -> impl TypedValueParser<Value = Kind> {
    let by_word = |word: String| Kind::ALL.into_iter().find(|kind| kind.word() == word);
    PossibleValuesParser::new(Kind::ALL.map(Kind::word))
        .try_map(move |word| by_word(word).ok_or("none of the kinds"))
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum Towards {
    /// To what it needs.
    Needs,
    /// To who needs it.
    Users,
    Both,
}

impl Towards {
    pub(crate) fn direction(self) -> Direction {
        match self {
            Self::Needs => Direction::Needs,
            Self::Users => Direction::Users,
            Self::Both => Direction::Both,
        }
    }
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum NodeOf {
    Service,
    Module,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum DrawnAs {
    /// Who needs whom, a line each.
    Text,
    Json,
    /// A picture that the program draws.
    Svg,
    /// The DOT language.
    Dot,
    /// A Mermaid flowchart.
    Mermaid,
    /// For graph programs.
    Graphml,
}

impl DrawnAs {
    /// The format that a file's name asks for.
    pub(crate) fn of_file(path: &Path) -> Option<Self> {
        match path.extension()?.to_str()? {
            "svg" => Some(Self::Svg),
            "dot" | "gv" => Some(Self::Dot),
            "mmd" | "mermaid" => Some(Self::Mermaid),
            "graphml" => Some(Self::Graphml),
            "json" => Some(Self::Json),
            "txt" => Some(Self::Text),
            _ => None,
        }
    }
}

/// How and where results are written.
#[derive(Debug, Args)]
pub(crate) struct Writing {
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
    #[command(flatten)]
    pub(crate) to: To,
}

/// Where results are written.
#[derive(Debug, Args)]
pub(crate) struct To {
    /// Write the result to a file instead of standard output.
    #[arg(long, short, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) screen: Screen,
}

/// What standard output gets.
#[derive(Debug, Args)]
pub(crate) struct Screen {
    /// Write nothing to standard output: the exit status says it all.
    #[arg(long, short)]
    pub(crate) quiet: bool,
    /// When to use colour; NO_COLOR is respected.
    #[arg(long, value_enum, default_value_t = Color::Auto, value_name = "WHEN")]
    pub(crate) color: Color,
}

/// How the report of an audit is written, and where.
#[derive(Debug, Args)]
pub(crate) struct ReportWriting {
    /// What standard output gets.
    #[arg(long, value_enum, default_value_t = ReportFormat::Text)]
    pub(crate) format: ReportFormat,
    /// Write the report to a file besides, any number of times; the ending says the format.
    #[arg(long, short, value_name = "[FORMAT:]FILE", value_parser = parse_output)]
    pub(crate) output: Vec<ReportOutput>,
    /// Count findings in a table, with the worst of each; below it stand as many as --limit says.
    #[arg(long, value_enum, value_name = "WHAT")]
    pub(crate) by: Option<CountedBy>,
    /// Show so many findings, the worst first, in text and SARIF; all are counted.
    #[arg(long, value_name = "N")]
    pub(crate) limit: Option<usize>,
    #[command(flatten)]
    pub(crate) screen: Screen,
}

impl ReportWriting {
    /// The files that are written.
    pub(crate) fn files(&self) -> impl Iterator<Item = &Path> {
        self.output.iter().map(|output| output.path.as_path())
    }

    /// Whether all that is written tells of findings: a page tells of everything.
    pub(crate) fn has_only_findings(&self) -> bool {
        let formats = self.output.iter().map(|output| output.format.unwrap_or(self.format));
        formats.chain([self.format]).all(|format| format != ReportFormat::Html)
    }
}

/// What the findings of a report are counted by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum CountedBy {
    Rule,
    Module,
    Family,
}

impl CountedBy {
    pub(crate) fn by(self) -> By {
        match self {
            Self::Rule => By::Rule,
            Self::Module => By::Module,
            Self::Family => By::Family,
        }
    }
}

/// A file that the report is written to.
#[derive(Debug, Clone)]
pub(crate) struct ReportOutput {
    /// `None`: the one of standard output.
    pub(crate) format: Option<ReportFormat>,
    pub(crate) path: PathBuf,
}

fn parse_output(text: &str) -> Result<ReportOutput, String> {
    if text.is_empty() {
        return Err("a file has a name".to_owned());
    }
    let prefixed = text.split_once(':').and_then(|(format, file)| {
        let format = ReportFormat::from_str(format, false).ok()?;
        (!file.is_empty()).then_some((format, file))
    });
    let (format, path) = match prefixed {
        Some((format, file)) => (Some(format), file),
        None => (ReportFormat::of_file(text), text),
    };
    Ok(ReportOutput { format, path: path.into() })
}

/// How the report of an audit can be written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum ReportFormat {
    /// For people at a terminal.
    Text,
    /// For programs; `corvant schema report` describes it.
    Json,
    /// SARIF 2.1.0, for code hosts and viewers.
    Sarif,
    /// JUnit XML, for pipelines that show tests.
    Junit,
    /// For a comment on a change.
    Markdown,
    /// A page to look around in, whole in one file.
    Html,
}

impl ReportFormat {
    /// The format that the name of a file asks for.
    fn of_file(name: &str) -> Option<Self> {
        const ENDINGS: [(&str, ReportFormat); 6] = [
            (".txt", ReportFormat::Text),
            (".json", ReportFormat::Json),
            (".sarif", ReportFormat::Sarif),
            (".junit.xml", ReportFormat::Junit),
            (".md", ReportFormat::Markdown),
            (".html", ReportFormat::Html),
        ];
        ENDINGS.into_iter().find(|(ending, _)| name.ends_with(ending)).map(|(_, format)| format)
    }
}

#[derive(Debug, Args)]
pub(crate) struct AuditOptions {
    #[command(flatten)]
    pub(crate) writing: ReportWriting,
    #[command(flatten)]
    pub(crate) looking: Looking,
    /// The least severity that fails the audit [default: error].
    #[arg(long, value_enum, value_name = "SEVERITY")]
    pub(crate) fail_on: Option<FailOn>,
    /// Tell only findings that are not there at this revision, or are worse than there.
    #[arg(long, value_name = "REVISION")]
    pub(crate) since: Option<String>,
}

#[derive(Debug, Args)]
pub(crate) struct AcceptOptions {
    /// Why the findings are accepted [default: that and when they were recorded].
    #[arg(long, value_name = "TEXT", value_parser = parse_reason)]
    pub(crate) reason: Option<String>,
    /// The last day they are accepted, as YYYY-MM-DD [default: no last day].
    #[arg(long, value_name = "DAY", value_parser = parse_day)]
    pub(crate) until: Option<String>,
    /// The least severity that is recorded.
    #[arg(long, value_enum, value_name = "SEVERITY", default_value_t = MinSeverity::Warning)]
    pub(crate) min_severity: MinSeverity,
    /// Show what would be recorded, and write nothing.
    #[arg(long)]
    pub(crate) dry_run: bool,
    #[command(flatten)]
    pub(crate) looking: Looking,
}

#[derive(Debug, Args)]
pub(crate) struct FixOptions {
    /// Make the edits; otherwise they are only shown.
    #[arg(long)]
    pub(crate) write: bool,
    /// Also edits that are likely: there is more than one way, or the meaning changes.
    #[arg(long)]
    pub(crate) likely: bool,
    /// Only for findings of this rule.
    #[arg(long = "rule", value_name = "NAME", value_parser = |name: &str| find_rule(name).map(|rule| rule.name))]
    pub(crate) rules: Vec<&'static str>,
    /// Only for findings about this.
    #[arg(long = "subject", value_name = "NAME", add = ArgValueCandidates::new(complete::names))]
    pub(crate) subjects: Vec<String>,
    /// Take away so many findings at most, the worst first.
    #[arg(long, value_name = "N")]
    pub(crate) limit: Option<NonZeroUsize>,
    /// Audit this stage only; otherwise every stage, and none.
    #[arg(long, value_name = "NAME")]
    pub(crate) stage: Option<String>,
    /// The day that the last days of allowances are held against, as YYYY-MM-DD [default: today].
    #[arg(long, value_name = "DAY", value_parser = parse_day)]
    pub(crate) today: Option<String>,
    #[command(flatten)]
    pub(crate) caching: Caching,
    #[command(flatten)]
    pub(crate) screen: Screen,
}

#[derive(Debug, Args)]
pub(crate) struct CompareOptions {
    /// The folder whose repository revisions are of, and the one that lies there now.
    #[arg(long, default_value = ".", value_name = "DIR", hide_default_value = true)]
    pub(crate) root: PathBuf,
    #[command(flatten)]
    pub(crate) telling: Telling,
    #[command(flatten)]
    pub(crate) looking: Looking,
}

/// Changes that are supposed, any number together.
#[derive(Debug, Args)]
#[group(required = true, multiple = true)]
pub(crate) struct SupposedChanges {
    /// A service, an entry or a provider is not there.
    #[arg(long, value_name = "NAME", add = ArgValueCandidates::new(complete::names))]
    pub(crate) remove: Vec<String>,
    /// A contract, or a key of it, gets a service.
    #[arg(long, value_name = "CONTRACT[#KEY]=SERVICE", value_parser = parse_pair)]
    pub(crate) choose: Vec<(String, String)>,
    /// The second service stands in the place of the first.
    #[arg(long, value_name = "SERVICE=SERVICE", value_parser = parse_pair)]
    pub(crate) replace: Vec<(String, String)>,
    /// A service lives otherwise.
    #[arg(long, value_name = "SERVICE=LIFETIME", value_parser = parse_pair)]
    pub(crate) lifetime: Vec<(String, String)>,
    /// A need is met on first use.
    #[arg(long, value_name = "HOLDER.SLOT")]
    pub(crate) lazy: Vec<String>,
    /// A module is not deployed.
    #[arg(long, value_name = "MODULE")]
    pub(crate) disable: Vec<String>,
    /// A module that the workspace disables is deployed.
    #[arg(long, value_name = "MODULE")]
    pub(crate) enable: Vec<String>,
    /// The roster is this.
    #[arg(long, value_name = "PROVIDER,…", value_delimiter = ',')]
    pub(crate) load: Vec<String>,
}

fn parse_pair(text: &str) -> Result<(String, String), String> {
    let pair = text.rsplit_once('=').filter(|(one, other)| !one.is_empty() && !other.is_empty());
    pair.map(|(one, other)| (one.to_owned(), other.to_owned()))
        .ok_or_else(|| "write it as NAME=NAME".to_owned())
}

/// How changes are told.
#[derive(Debug, Args)]
pub(crate) struct Telling {
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = CompareFormat::Text)]
    pub(crate) format: CompareFormat,
    #[command(flatten)]
    pub(crate) to: To,
    /// Show so many new findings at most, the worst first, in text; all are counted.
    #[arg(long, value_name = "N")]
    pub(crate) limit: Option<usize>,
    /// Show values of settings: they may be secret.
    #[arg(long)]
    pub(crate) values: bool,
    /// The least severity of a new finding that fails.
    #[arg(long, value_enum, value_name = "SEVERITY", default_value_t = FailOn::Error)]
    pub(crate) fail_on: FailOn,
    /// Fail if anything is another.
    #[arg(long)]
    pub(crate) exit_on_change: bool,
}

/// How changes can be written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum CompareFormat {
    /// For people.
    Text,
    /// For programs; `corvant schema compare` describes it.
    Json,
    /// For a comment on a change.
    Markdown,
    /// The page of what is there now, with what is another.
    Html,
}

/// What an audit looks at, and how strictly.
#[derive(Debug, Clone, Args)]
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
    #[command(flatten)]
    pub(crate) caching: Caching,
}

fn parse_day(text: &str) -> Result<String, String> {
    if corvant_read::native::is_day(text) {
        Ok(text.to_owned())
    } else {
        Err("write it as YYYY-MM-DD".to_owned())
    }
}

fn parse_reason(text: &str) -> Result<String, String> {
    if text.trim().is_empty() {
        Err("an allowance without a reason does not count".to_owned())
    } else {
        Ok(text.to_owned())
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
pub(crate) fn find_rule(name: &str) -> Result<&'static RuleText, String> {
    let names: Vec<&str> = TEXTS.iter().map(|rule| rule.name).collect();
    TEXTS.iter().copied().find(|rule| rule.name == name).ok_or_else(|| {
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
    /// The JSON report of `audit`.
    Report,
    /// The JSON answer of `show`.
    Show,
    /// The JSON answer of `find`.
    Find,
    /// The JSON answer of `why`.
    Why,
    /// The JSON answer of `order`.
    Order,
    /// The JSON answer of `impact`.
    Impact,
    /// The JSON of `graph`.
    Graph,
    /// The JSON of `compare`.
    Compare,
    /// The JSON of `audit --explain-readers`.
    Readers,
    /// The JSON of `rules`.
    Rules,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub(crate) enum MinSeverity {
    Error,
    Warning,
    Note,
}

impl MinSeverity {
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
    /// For programs; `corvant schema report` describes an audit's.
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
