//! One file a command.

mod apply;
mod asked;
mod check;
mod completions;
mod demo;
mod explain;
mod extract;
mod fold;
mod fold_all;
mod gate;
mod init;
mod inline;
mod lift;
mod log;
mod notebook;
mod param;
mod pointed;
mod probe;
mod ranged;
mod ready;
mod record;
mod relocate;
mod rename;
mod report;
mod scan;
mod show;
mod slide;
mod split;
mod split_file;
mod split_loop;
mod split_variable;
mod step;
mod tidy;
mod trust;
mod undo;
mod walk;
mod watch;

#[cfg(test)]
pub use {
    check::Report as CheckReport, gate::Report as GateReport, log::Report as LogReport, probe::Report as ProbeReport,
    ready::Report as ReadyReport, scan::Report as ScanReport, split::Report as SplitReport,
    split_file::Report as SplitFileReport,
};

use ranged::Ranged;

use crate::args::{Args, Command, Format};
use crate::session::Session;

/// Runs a command; its exit code.
pub fn run(args: Args) -> anyhow::Result<u8> {
    match &args.command {
        Command::Demo { dir } => return demo::run(&args.common, dir.as_deref()),
        Command::Completions { shell } => return completions::run(*shell),
        Command::Explain { code } => return explain::run(&args.common, code.as_deref()),
        _ => {}
    }
    if matches!(args.common.format, Format::Sarif | Format::Markdown) && !matches!(args.command, Command::Gate(_)) {
        let what = "--format sarif and markdown are of `ufold gate`; `ufold report -o FILE.md` writes such a file";
        Err(ufold_project::Error::Usage(what.into()))?;
    }
    let s = Session::new(&args.common)?;
    match args.command {
        Command::Scan(a) => scan::run(&s, &a),
        Command::Gate(a) => gate::run(&s, &a),
        Command::Report(a) => report::run(&s, &a),
        Command::Show(a) => show::run(&s, &a),
        Command::Walk(a) => walk::run(&s, &a),
        Command::Fold(a) => fold::run(&s, &a),
        Command::Extract(a) => extract::run(&s, &a),
        Command::Split(a) => split::run(&s, &a),
        Command::Slide(a) => slide::run(&s, &a),
        Command::SplitLoop(a) => split_loop::run(&s, &a),
        Command::SplitVariable(a) => split_variable::run(&s, &a),
        Command::Notebook(a) => notebook::run(&s, &a),
        Command::Tidy(a) => tidy::run(&s, &a),
        Command::Rename(a) => rename::run(&s, &a),
        Command::Lift(a) => lift::run(&s, &a),
        Command::Move(a) => relocate::run(&s, &a),
        Command::Param(a) => param::run(&s, &a),
        Command::Inline(a) => inline::run(&s, &a),
        Command::Apply(a) => apply::run(&s, &a),
        Command::Ready(a) => ready::run(&s, &a),
        Command::Record(a) => record::run(&s, &a),
        Command::Trust { list } => trust::run(&s, list),
        Command::Check(a) => check::run(&s, &a),
        Command::Probe(a) => probe::run(&s, &a),
        Command::Watch(a) => watch::run(&s, &a),
        Command::Log => log::run(&s),
        Command::Undo { number } => undo::run(&s, number),
        Command::Init { force } => init::run(&s, force),
        Command::Demo { .. } | Command::Completions { .. } | Command::Explain { .. } => unreachable!("handled above"),
    }
}
