//! What can be typed.

mod looking;
mod shape;

use std::path::PathBuf;

use clap::{Args as Group, Parser, Subcommand, ValueEnum};
use ufold_core::plan::{Results, Wishes};

pub use looking::{Filters, Gate, Kinds, Report, Scan, Sort};
pub use shape::{Lift, Notebook, Slide, Split, SplitLoop, SplitVariable, Tidy, Walk};

#[derive(Parser, Debug)]
#[command(
    name = "ufold",
    version,
    about = "Finds duplicated code, folds it into functions, and checks that behaviour is unchanged",
    after_help = "Order of work: scan, show one finding, fold it, look at the diff, commit or undo.\n\n\
Examples:\n  ufold scan                      what is worth changing, the best first\n  \
ufold show r4f2c                the copies, the holes, the function, the calls\n  \
ufold fold r4f2c --preview      the diff, nothing written\n  ufold fold r4f2c                one step: change, check, keep or restore\n  \
ufold undo                      take the last step back"
)]
pub struct Args {
    #[command(flatten)]
    pub common: Common,
    #[command(subcommand)]
    pub command: Command,
}

#[derive(Group, Debug, Clone)]
pub struct Common {
    /// Folder of the project [default: nearest parent with ufold.toml or .git, else here]
    #[arg(long, global = true, value_name = "DIR")]
    pub root: Option<PathBuf>,
    /// How results are printed
    #[arg(long, global = true, value_enum, default_value = "text")]
    pub format: Format,
    /// When to use colour
    #[arg(long, global = true, value_enum, default_value = "auto")]
    pub color: Color,
    /// Print results only, no remarks and no progress
    #[arg(long, short, global = true)]
    pub quiet: bool,
    /// Say yes to the commands of this project, as `ufold trust` does
    #[arg(long, global = true)]
    pub trust: bool,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    Text,
    Json,
    /// Of `gate` alone.
    #[value(hide = true)]
    Sarif,
    /// Of `gate` alone.
    #[value(hide = true)]
    Markdown,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum Color {
    Auto,
    Always,
    Never,
}

#[derive(Subcommand, Debug)]
pub enum Command {
    /// List what is worth changing, the best first
    #[command(
        after_help = "Examples:\n  ufold scan\n  ufold scan harbour/ --limit 10\n  ufold scan --kind long --longest 30\n  ufold scan --kind drift\n  \
ufold scan --since main --verdict ready\n  ufold scan --path 'harbour/**' --sort changes\n  ufold scan --format json > scan.json"
    )]
    Scan(Scan),
    /// Fail when there are findings that the ledger does not have, or that grew: for CI and before a commit
    #[command(
        after_help = "The ledger is ufold-ledger.json in the root; it belongs under version control. Without one, every finding is new.\n\
Findings that only moved are not new, nor those whose copies were edited where they are; a copy more, or lines more by a\n\
tenth, is grown. Exit code 1: something is new or grew. --format takes sarif and markdown too.\n\n\
Examples:\n  ufold gate --accept\n  ufold gate\n  ufold gate --since origin/main --format markdown > comment.md\n  \
ufold gate --format sarif > findings.sarif"
    )]
    Gate(Gate),
    /// Write what was found as one page to look at, with a map of the code; or as SARIF or Markdown
    #[command(
        after_help = "The file's ending says the form: .html, .sarif or .md. The page needs no network and nothing beside it.\n\n\
Examples:\n  ufold report -o report.html\n  ufold report harbour/ -o report.html\n  ufold report -o report.md --limit 20"
    )]
    Report(Report),
    /// Show one finding: the copies, the holes, the function that would be written, the calls, the verdict
    #[command(after_help = "Examples:\n  ufold show r4f2ck\n  ufold show harbour/fees.py:40")]
    Show(Target),
    /// Go through the worklist by keys, one finding at a time: fold, edit the plan, skip, never again, undo
    #[command(
        after_help = "Keys: f fold (or split), d diff, e edit the plan in $EDITOR, s skip, n never again (noted in ufold.toml),\n\
o open the place in $EDITOR, u undo the last step, q quit.\n\nExamples:\n  ufold walk\n  ufold walk harbour/ --commit"
    )]
    Walk(Walk),
    /// Fold the copies of a finding into one function and call it from each
    #[command(after_help = "Examples:\n  ufold fold r4f2ck --preview\n  ufold fold r4f2ck --name sum_open_fees\n  \
ufold fold harbour/fees.py:40 --except 3\n  ufold fold --all --commit\n  ufold fold --all --batch 8 --minutes 30\n  ufold fold r4f2ck --save-plan plan.json --preview")]
    Fold(Fold),
    /// Make a function of the statements or the expression at a place, and call it there and in the other copies
    #[command(
        after_help = "FILE:RANGE is path:12-20 (whole lines) or path:12:5-14:30 (from column 5 of line 12 up to, \
but not including,\ncolumn 30 of line 14).\n\nExamples:\n  ufold extract harbour/fees.py:40-52 open_fees --preview\n  \
ufold extract kiosk/board.ts:17:12-17:48 tideLabel\n  ufold extract harbour/fees.py:40-52 open_fees --everywhere --commit"
    )]
    Extract(Extract),
    /// Take an overlong function apart into named functions; without --parts or --all-parts, only show how
    #[command(after_help = "PLACE is FILE:function, FILE:Class.method, or FILE:LINE of any line in it.\n\n\
Examples:\n  ufold split harbour/invoices.py:settle\n  ufold split harbour/invoices.py:settle --all-parts --preview\n  \
ufold split harbour/invoices.py:settle --parts 1,3 --names open_dues,late_fees")]
    Split(Split),
    /// Move statements next to their first use, or to another line of their block, where nothing depends on the order
    #[command(
        after_help = "Examples:\n  ufold slide harbour/fees.py:92\n  ufold slide harbour/fees.py:117 --before 111 --preview\n  \
ufold slide harbour/fees.py:111-112 --after 116"
    )]
    Slide(Slide),
    /// Put some lines of a loop's body into a loop of their own behind it
    #[command(after_help = "Examples:\n  ufold split-loop harbour/fees.py:40 --lines 43\n  \
ufold split-loop kiosk/board.ts:12 --lines 14,17-19 --preview")]
    SplitLoop(SplitLoop),
    /// Give a value that a variable gets later on, with all its uses, a variable of its own
    #[command(after_help = "PLACE is FILE:LINE:COL of the variable where it gets the value.\n\n\
Examples:\n  ufold split-variable harbour/fees.py:31:5 late_fee\n  ufold split-variable kiosk/board.ts:12:3 label --preview")]
    SplitVariable(SplitVariable),
    /// Take away what has no effect: what nothing reaches or uses, code in comments, comments that repeat the code
    #[command(
        after_help = "Kinds: unreachable, unused, commented-code, echo; and debug, which goes only when it is named.\n\n\
Examples:\n  ufold scan --kind clutter\n  ufold tidy --preview\n  ufold tidy harbour/ --only unused,unreachable\n  \
ufold tidy harbour/fees.py --only debug\n  ufold show c4k2m\n  ufold tidy c4k2m"
    )]
    Tidy(Tidy),
    /// Write a notebook as a script, record what it prints, and list what is worth changing in it
    #[command(
        after_help = "Cells come in order, texts as comments; what a cell shows is printed. The script is run twice, so that later\n\
checks can compare its output.\n\nExamples:\n  ufold notebook tides/gauges.ipynb -o tides/gauges.py\n  \
ufold notebook tides/gauges.ipynb -o tides/gauges.py --without-display --no-recording"
    )]
    Notebook(Notebook),
    /// Rename a variable, parameter, function, class or member, with every reference in the project
    #[command(after_help = "PLACE is FILE:LINE:COL, or FILE:name or FILE:Class.name for a definition.\n\n\
Examples:\n  ufold rename harbour/fees.py:12:5 open_fees\n  ufold rename harbour/fees.py:Ledger.due due_fees --preview")]
    Rename(Rename),
    /// Move functions, classes and values to another file, or static members to another class; all imports follow
    #[command(
        after_help = "PLACE is FILE:name, or FILE:name,name for several. The file is made where it is not there yet. Private\n\
definitions that only the moved ones use go along. Public names of a package can still be imported from\n\
where they were; --no-stay leaves that out. In Java static functions and fields go to the class of the\n\
other file, a whole class to a file of its own.\n\n\
Examples:\n  ufold move harbour/fees.py:tide_level --to harbour/tides.py\n  \
ufold move harbour/fees.py:Tide,LOWEST --to harbour/tides.py --preview\n  \
ufold move port/Fees.java:Fees.due,RATE --to port/Dues.java\n  \
ufold move port/Fees.java:Tariff --to port/tariffs/"
    )]
    Move(Move),
    /// Put members that several classes repeat into the class that all of them extend, or into a new one
    #[command(
        after_help = "PLACE is FILE:Class.member, FILE:Class.member,member for several, or FILE:LINE:COL. All classes that declare\n\
the member by the same words are meant; what it needs of them goes along. Where no other class does, those\n\
are meant that differ in texts and numbers alone: each class has these as a value of its own then. The new\n\
class stands above the first of them, or, where they stand in several files, in a file of its own.\n\n\
Examples:\n  ufold lift harbour/records.py:Berth.label --preview\n  \
ufold lift harbour/records.py:Berth.label,number --new-base Record\n  \
ufold lift harbour/records.py:Berth.heading --new-base Record --values KIND\n  \
ufold lift desk/Berth.java:Berth.number --new-base Record --into desk/Record.java"
    )]
    Lift(Lift),
    /// Make a value inside a function its parameter, and pass the old value from every call
    #[command(after_help = "PLACE is FILE:LINE:COL of the value, or FILE:RANGE.\n\n\
Examples:\n  ufold param harbour/fees.py:14:20 rate\n  ufold param harbour/fees.py:14:20 rate --all-equal --preview")]
    Param(Param),
    /// Put a variable's value, or a function's expression, in the place of every use, and remove it
    #[command(
        after_help = "PLACE is FILE:LINE:COL, or FILE:name for a definition. Uses are counted from the top of its file, then \
through\nthe other files; where some are left, the definition stays.\n\n\
Examples:\n  ufold inline harbour/fees.py:14:5\n  ufold inline kiosk/board.ts:tideLabel --preview\n  \
ufold inline harbour/fees.py:open_fees --except 2"
    )]
    Inline(Inline),
    /// Apply a saved plan, computed again from its request
    #[command(after_help = "Examples:\n  ufold apply plan.json\n  ufold apply plan.json --preview")]
    Apply(Apply),
    /// Say whether it is safe to start: version control clean, the check passing and steady, what it covers
    #[command(after_help = "The check is run twice; its results are kept as the baseline. Exit code 1: not ready.\n\n\
Examples:\n  ufold ready\n  ufold ready --check 'python3 -m pytest -q --junit-xml={report}'")]
    Ready(CheckOnly),
    /// Keep a command's output, for code without tests; the check compares it from then on
    #[command(
        after_help = "The command is run twice; what differs between the runs must be masked. Known masks: id, address, \
temporary,\ndate, time, duration. A table of inputs is a CSV file: {column} in the command stands for its values, and \
the\nfirst column names the row.\n\nExamples:\n  ufold record tariff -- python3 -m harbour.tariff --year 2026\n  \
ufold record tides --files 'out/*.csv' --mask date -- node tides.js\n  \
ufold record fees --inputs ships.csv -- python3 fees.py {ship} {tons}\n  ufold record --accept tariff\n  ufold record"
    )]
    Record(Record),
    /// Say yes to the commands that this project wants run: its check, its recordings, what its git settings name
    #[command(
        after_help = "ufold runs no command of a project before you have said yes to it, since somebody else may have written \
it.\nA changed command is asked about again.\n\nExamples:\n  ufold trust --list\n  ufold trust"
    )]
    Trust {
        /// Only print the commands, and which of them are new
        #[arg(long)]
        list: bool,
    },
    /// Run the project's check and recordings, and say what changed since the baseline
    #[command(after_help = "Examples:\n  ufold check\n  ufold check --check 'python3 -m pytest -q'")]
    Check(CheckOnly),
    /// Run the check again, and look at the changed files, whenever files change
    #[command(after_help = "Examples:\n  ufold watch\n  ufold watch --check 'node --test'")]
    Watch(Watch),
    /// Would the check notice? Break a step's places one at a time, in a copy of the tree
    #[command(
        after_help = "Each call is left out, each argument is another one, each hole is as in the first copy only; the check is \
run\neach time. Exit code 1: something was not noticed.\n\nExamples:\n  ufold probe\n  ufold probe 3 --minutes 5"
    )]
    Probe(Probe),
    /// List the steps that were done
    Log,
    /// Take a step back: the last one, or the one with this number
    #[command(after_help = "Examples:\n  ufold undo\n  ufold undo 3")]
    Undo {
        /// Number of the step, as `ufold log` shows it
        number: Option<u32>,
    },
    /// Write ufold.toml with what was detected
    Init {
        /// Replace a file that is there
        #[arg(long)]
        force: bool,
    },
    /// Run the whole job on an example project in a new folder
    Demo {
        /// The folder, which must not exist [default: a new temporary one]
        dir: Option<PathBuf>,
    },
    /// Say what a code of a refusal or an assumption means, and what to do
    #[command(after_help = "Examples:\n  ufold explain maybe-unbound\n  ufold explain")]
    Explain {
        /// The code; all are listed without one
        code: Option<String>,
    },
    /// Print a completion script for a shell
    Completions { shell: clap_complete::Shell },
}

#[derive(Group, Debug, Clone)]
pub struct Target {
    /// A finding's id, any unique beginning of it, or FILE:LINE
    pub finding: String,
    #[command(flatten)]
    pub request: RequestFlags,
}

/// Which copies, and what may be done with them.
#[derive(Group, Debug, Clone)]
pub struct Choice {
    /// File that takes the new function: any of the project, or a new one; with a class of it, where functions are members
    #[arg(long, value_name = "FILE[:CLASS]")]
    pub into: Option<String>,
    #[command(flatten)]
    pub sites: Sites,
    /// The type of a parameter, where the language wants one and it can't be found
    #[arg(long = "type", value_name = "NAME=TYPE", value_parser = pair)]
    pub types: Vec<(String, String)>,
    /// Names of the parameters in the wished order; a name that stands already moves with its arguments
    #[arg(long, value_name = "NAME,…", num_args = 1.., value_delimiter = ',')]
    pub parameters: Vec<String>,
    /// Doc comment of the new function
    #[arg(long, value_name = "TEXT")]
    pub doc: Option<String>,
    /// What several results become in languages whose functions give one: a record, or a small class before records
    #[arg(long, value_name = "FORM")]
    pub results: Option<ResultsFlag>,
    /// Most parameters that the function may have
    #[arg(long, value_name = "N", default_value_t = ufold_core::plan::most_parameters())]
    pub most_parameters: usize,
}

fn pair(text: &str) -> Result<(String, String), String> {
    let (name, text) = text.split_once('=').ok_or("expected NAME=…")?;
    Ok((name.trim().to_string(), text.trim().to_string()))
}

#[derive(clap::ValueEnum, Debug, Clone, Copy)]
pub enum ResultsFlag {
    Record,
}

impl Choice {
    /// What is wished of the function that a step writes.
    pub fn wishes(&self) -> Wishes {
        // a class's name has no dot, a file's has
        let split =
            self.into.as_deref().and_then(|i| i.rsplit_once(':')).filter(|(_, c)| !c.contains(['.', '/', '\\']));
        Wishes {
            into: split.map(|(file, _)| file.to_string()).or_else(|| self.into.clone()),
            class: split.map(|(_, class)| class.to_string()),
            parameters: (!self.parameters.is_empty()).then(|| self.parameters.clone()),
            types: self.types.iter().cloned().collect(),
            doc: self.doc.clone(),
            results: self.results.map(|ResultsFlag::Record| Results::Record),
            most_parameters: self.most_parameters,
            ..Wishes::default()
        }
    }
}

impl Default for Choice {
    fn default() -> Self {
        let most_parameters = ufold_core::plan::most_parameters();
        Self {
            into: None,
            sites: Sites::default(),
            types: Vec::new(),
            parameters: Vec::new(),
            doc: None,
            results: None,
            most_parameters,
        }
    }
}

/// Which copies or uses a step changes.
#[derive(Group, Debug, Clone, Default)]
pub struct Sites {
    /// Only these, by the numbers that are shown for them
    #[arg(long, value_name = "SITE", num_args = 1.., value_delimiter = ',', conflicts_with = "except")]
    pub only: Vec<usize>,
    /// Leave these as they are
    #[arg(long, value_name = "SITE", num_args = 1.., value_delimiter = ',')]
    pub except: Vec<usize>,
}

impl Sites {
    /// Numbers of those to leave out, of so many.
    pub fn left_out(&self, copies: usize) -> Vec<usize> {
        if self.only.is_empty() {
            return self.except.clone();
        }
        (1..=copies).filter(|n| !self.only.contains(n)).collect()
    }
}

#[derive(Group, Debug, Clone, Default)]
pub struct RequestFlags {
    /// Name of the new function
    #[arg(long)]
    pub name: Option<String>,
    #[command(flatten)]
    pub choice: Choice,
    /// Refuse rather than fold a part of the copies
    #[arg(long)]
    pub whole: bool,
    /// A statement that some copies lack: run it by a flag, not as a function that is passed
    #[arg(long)]
    pub flags: bool,
    /// Compute a parameter from another where it follows from it in all copies: its negation, its text in other case,
    /// a number as far away
    #[arg(long)]
    pub derive: bool,
    /// Set by `--all`, which leaves small gains to people.
    #[arg(skip)]
    pub least: Option<i64>,
    /// Set when the finding was given as a place.
    #[arg(skip)]
    pub pointed_at: Option<ufold_core::change::Pointer>,
}

#[derive(Group, Debug, Clone)]
pub struct StepFlags {
    /// Print the diff and write nothing
    #[arg(long)]
    pub preview: bool,
    /// Do not run the check (the audit always runs)
    #[arg(long, conflicts_with = "check")]
    pub no_check: bool,
    /// Command that runs the tests [default: check.command of ufold.toml]
    #[arg(long, value_name = "COMMAND")]
    pub check: Option<String>,
    /// Commit the step to git
    #[arg(long, overrides_with = "no_commit")]
    pub commit: bool,
    /// Do not commit the step
    #[arg(long)]
    pub no_commit: bool,
    /// Refuse plans that hold only under assumptions
    #[arg(long)]
    pub strict: bool,
    /// Change files too that have changes of your own, or that git does not hold
    #[arg(long)]
    pub include_changed: bool,
}

#[derive(Group, Debug, Clone)]
pub struct Fold {
    /// A finding's id, any unique beginning of it, or FILE:LINE
    #[arg(required_unless_present = "all", conflicts_with = "all")]
    pub finding: Option<String>,
    /// Work through the worklist, a step each, stepping back from those that fail
    #[arg(long)]
    pub all: bool,
    /// With --all: so many steps share one run of the check; when it fails, halves are tried until the bad one is found
    #[arg(long, value_name = "N", default_value_t = 1, requires = "all", value_parser = clap::value_parser!(u64).range(1..))]
    pub batch: u64,
    /// With --all: stop after so many steps
    #[arg(long, value_name = "N", requires = "all")]
    pub most_steps: Option<usize>,
    /// With --all: begin no step after so many minutes
    #[arg(long, value_name = "MINUTES", requires = "all")]
    pub minutes: Option<f64>,
    /// With --all: also findings for whose function no good name was found
    #[arg(long, requires = "all")]
    pub any_name: bool,
    /// With --all: also findings whose step was taken back before
    #[arg(long, requires = "all")]
    pub again: bool,
    #[command(flatten)]
    pub request: RequestFlags,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE", conflicts_with = "all")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Extract {
    /// The code, as FILE:RANGE
    #[arg(value_name = "FILE:RANGE")]
    pub range: String,
    /// Name of the new function
    pub name: String,
    /// Replace the other copies in all files, not only in this one
    #[arg(long)]
    pub everywhere: bool,
    /// Make a local of the expression instead, before its statement; equal ones in the same block read it
    #[arg(long, conflicts_with_all = ["everywhere", "form", "into", "only", "except"])]
    pub variable: bool,
    /// Put a call of the new function in the place of the variable that has the value, which goes
    #[arg(long, conflicts_with_all = ["everywhere", "variable", "only", "except"])]
    pub query: bool,
    /// What the new code becomes [default: what its uses ask for]
    #[arg(long = "as", value_enum, value_name = "FORM")]
    pub form: Option<FormFlag>,
    #[command(flatten)]
    pub choice: Choice,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Rename {
    /// The name, as FILE:LINE:COL, FILE:name or FILE:Class.name
    pub place: String,
    /// The new name
    #[arg(value_name = "NEW")]
    pub name: String,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Move {
    /// The definitions, as FILE:name or FILE:name,name; in Java a class, FILE:Class or FILE:Class.Inner, or static members, FILE:Class.name,name
    pub place: String,
    /// The file that they go to, or a folder for one of the same name in it
    #[arg(long, value_name = "FILE")]
    pub to: String,
    /// Nothing is left for those who may import the names from where they were
    #[arg(long)]
    pub no_stay: bool,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Param {
    /// The value, as FILE:LINE:COL or FILE:RANGE
    pub place: String,
    /// Name of the parameter
    pub name: String,
    /// Also the other places in the function with an equal value
    #[arg(long)]
    pub all_equal: bool,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Inline {
    /// The variable or function, as FILE:LINE:COL or FILE:name
    pub place: String,
    #[command(flatten)]
    pub sites: Sites,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum FormFlag {
    Function,
    Method,
    Nested,
}

#[derive(Group, Debug, Clone)]
pub struct Apply {
    /// A plan written by --save-plan
    pub plan: PathBuf,
    #[command(flatten)]
    pub step: StepFlags,
}

#[derive(Group, Debug, Clone)]
pub struct Record {
    /// Name of the recording; without one, all are listed
    pub name: Option<String>,
    /// Take the output of the recorded command as right from now on
    #[arg(long, conflicts_with_all = ["files", "mask", "inputs", "force"])]
    pub accept: bool,
    /// Files that the command writes, as patterns
    #[arg(long, value_name = "PATTERN")]
    pub files: Vec<String>,
    /// What may differ from run to run: a known mask or a regular expression
    #[arg(long, value_name = "MASK")]
    pub mask: Vec<String>,
    /// A variable of the command's environment
    #[arg(long, value_name = "NAME=VALUE", value_parser = pair)]
    pub env: Vec<(String, String)>,
    /// A CSV table: the command is run for each row
    #[arg(long, value_name = "FILE")]
    pub inputs: Option<PathBuf>,
    /// Seconds for one run [default: 60]
    #[arg(long, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..))]
    pub timeout: Option<u64>,
    /// Replace a recording that is there
    #[arg(long)]
    pub force: bool,
    /// The command, after --
    #[arg(last = true)]
    pub command: Vec<String>,
}

#[derive(Group, Debug, Clone)]
pub struct Watch {
    /// Command that runs the tests [default: that of ufold.toml]
    #[arg(long, value_name = "COMMAND")]
    pub check: Option<String>,
    /// Milliseconds without a change before the check begins
    #[arg(long, value_name = "MS", default_value_t = 400)]
    pub quiet_for: u64,
    /// End after so many runs
    #[arg(long, value_name = "N")]
    pub runs: Option<usize>,
}

#[derive(Group, Debug, Clone)]
pub struct Probe {
    /// Number of the step [default: the last one that stands]
    pub number: Option<u32>,
    /// Begin no break after so many minutes
    #[arg(long, value_name = "MINUTES", default_value_t = 10.0)]
    pub minutes: f64,
    /// Command that runs the tests [default: that of ufold.toml]
    #[arg(long, value_name = "COMMAND")]
    pub check: Option<String>,
}

#[derive(Group, Debug, Clone)]
pub struct CheckOnly {
    /// Command that runs the tests [default: check.command of ufold.toml]
    #[arg(long, value_name = "COMMAND")]
    pub check: Option<String>,
}
