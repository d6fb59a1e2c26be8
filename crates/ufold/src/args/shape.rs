//! What can be typed for the steps that change the shape of functions and clear what hides it.

use std::path::PathBuf;

use clap::Args as Group;

use super::StepFlags;

#[derive(Group, Debug, Clone)]
pub struct Split {
    /// The function, as FILE:function, FILE:Class.method or FILE:LINE; or a file
    pub place: String,
    /// Take these parts out, by the numbers that are shown for them
    #[arg(long, value_name = "PART", num_args = 1.., value_delimiter = ',', conflicts_with = "all_parts")]
    pub parts: Vec<usize>,
    /// Take all parts out that can be, in one step
    #[arg(long)]
    pub all_parts: bool,
    /// Names of the parts taken, in order; an empty one is found. Of a file: those of the new files
    #[arg(long, value_name = "NAME,…", num_args = 1.., value_delimiter = ',')]
    pub names: Vec<String>,
    /// Of a file: it does not keep names only because somebody outside of the project may import them
    #[arg(long)]
    pub no_stay: bool,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file; without a choice of parts, that of all
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Slide {
    /// The statements, as FILE:RANGE
    #[arg(value_name = "FILE:RANGE")]
    pub range: String,
    /// Before the statement at this line
    #[arg(long, value_name = "LINE", conflicts_with = "after")]
    pub before: Option<usize>,
    /// After the statement at this line
    #[arg(long, value_name = "LINE")]
    pub after: Option<usize>,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct SplitLoop {
    /// The loop, as FILE:LINE of its first line
    pub place: String,
    /// Lines of its body that go into the new loop, such as 14,17-19
    #[arg(long, value_name = "LINES", required = true, num_args = 1.., value_delimiter = ',', value_parser = lines)]
    pub lines: Vec<(usize, usize)>,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

/// A line, or the first and the last of several.
fn lines(text: &str) -> Result<(usize, usize), String> {
    let (a, z) = text.split_once('-').unwrap_or((text, text));
    let number = |t: &str| t.trim().parse::<usize>().ok().filter(|n| *n > 0);
    let both = number(a).zip(number(z)).filter(|(a, z)| a <= z);
    both.ok_or_else(|| format!("{text} is neither a line nor lines such as 17-19"))
}

#[derive(Group, Debug, Clone)]
pub struct SplitVariable {
    /// The variable where it gets the value, as FILE:LINE:COL
    pub place: String,
    /// Name of the new variable
    #[arg(value_name = "NEW")]
    pub name: String,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Walk {
    /// Files and folders whose findings are shown [default: the whole root]
    pub paths: Vec<String>,
    /// Only findings of this kind
    #[arg(long, value_name = "KIND", value_parser = ["repeat", "long"])]
    pub kind: Option<String>,
    #[command(flatten)]
    pub step: StepFlags,
}

#[derive(Group, Debug, Clone)]
pub struct Notebook {
    /// The notebook
    #[arg(value_name = "FILE.ipynb")]
    pub file: String,
    /// The script to write
    #[arg(long, short, value_name = "FILE.py")]
    pub output: String,
    /// Leave out what cells show, and lines that only print
    #[arg(long)]
    pub without_display: bool,
    /// Do not run the script to record its output
    #[arg(long)]
    pub no_recording: bool,
    /// Replace a script that is there
    #[arg(long)]
    pub force: bool,
}

#[derive(Group, Debug, Clone)]
pub struct Tidy {
    /// Files and folders to tidy, or ids of pieces [default: the whole root]
    pub paths: Vec<String>,
    /// Only these kinds of clutter
    #[arg(long, value_name = "KIND,…", num_args = 1.., value_delimiter = ',',
          value_parser = ["unreachable", "unused", "commented-code", "echo", "debug"])]
    pub only: Vec<String>,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}

#[derive(Group, Debug, Clone)]
pub struct Lift {
    /// The member, as FILE:Class.member, FILE:Class.member,member or FILE:LINE:COL
    pub place: String,
    /// The class that gets it, which all of the classes extend [default: the nearest]
    #[arg(long, value_name = "CLASS", conflicts_with = "new_base")]
    pub to: Option<String>,
    /// Make a class of that name, which all of the classes extend then
    #[arg(long, value_name = "NAME")]
    pub new_base: Option<String>,
    /// The file of the new class
    #[arg(long, value_name = "FILE", requires = "new_base")]
    pub into: Option<String>,
    /// Names for the values in which the members differ, in the order of the code: each class has its own [default: found]
    #[arg(long, value_name = "NAME,…", value_delimiter = ',')]
    pub values: Vec<String>,
    #[command(flatten)]
    pub step: StepFlags,
    /// Write the plan to a file
    #[arg(long, value_name = "FILE")]
    pub save_plan: Option<PathBuf>,
}
