//! Before/after programs: each is run, changed by the built program, and run again; the output must be the same.
//!
//! A case begins with `=== its name`, then `key: value` lines, then files, each after `--- path`; the first is run.
//! The step is one of `fold` (file:text, the first line with that text is the target), `extract` (file:text, or
//! file:text ... text, the lines from the first to the next) and `value` (file:text, an expression); what is extracted
//! is called `extracted`; or `step`, the words of any other command. Further keys: `expect` (`ready`, `assumed CODE`, `refused CODE`, `done`
//! where nothing may be left to do, or `wrong TEXT`, a usage error with that text), `args` (more arguments), `see` (a line that must be in the result, or several with `\n` between), `not` (one that must not
//! be), `remark` (text in a remark of the plan), `broken` (the assumption does not hold: the program is not run again).

mod common;

use std::fs;
use std::path::Path;
use std::process::Output;

use common::{CSHARP, Case, JAVA, LUA, PHP, TSC, has, load, program, ufold};

/// One case under test.
struct Trial<'a> {
    case: &'a Case,
}

impl Trial<'_> {
    fn run(&self, interpreter: &str) -> Result<(), String> {
        let wrong_use = self.case.get("expect").starts_with("wrong");
        let dir = self.case.lay_out();
        let main = &self.case.files[0].0;
        let before = program(interpreter, dir.path(), main);
        if !before.status.success() || before.stdout.is_empty() {
            return Err(format!("does not run or prints nothing: {}", String::from_utf8_lossy(&before.stderr)));
        }
        let command = self.case.command();
        let mut args: Vec<&str> = command.iter().map(String::as_str).collect();
        args.extend(["--no-check", "--format", "json"]);
        args.extend(self.case.all("args").flat_map(str::split_whitespace));
        let (verdict, code) = self.case.get("expect").split_once(' ').unwrap_or((self.case.get("expect"), ""));
        if verdict == "refused" && command[0] == "fold" {
            args.push("--whole");
        }
        let fold = ufold(dir.path(), &args);
        let (out, err) = (String::from_utf8_lossy(&fold.stdout), String::from_utf8_lossy(&fold.stderr));
        if verdict == "refused" || wrong_use {
            let status = if wrong_use { 2 } else { 3 };
            let sign = if wrong_use { code.to_string() } else { format!("{code}:") };
            let unchanged =
                self.case.files.iter().all(|(p, b)| fs::read_to_string(dir.path().join(p)).ok().as_ref() == Some(b));
            return match fold.status.code() {
                Some(c) if c == status && (err.contains(&sign) || out.contains(&sign)) && unchanged => Ok(()),
                c => Err(format!("expected {verdict} with {code}, exit {c:?}\n{out}{err}")),
            };
        }
        if fold.status.code() != Some(0) {
            return Err(format!("expected {verdict}, exit {:?}\n{out}{err}", fold.status.code()));
        }
        if verdict == "done" {
            return self.compare(dir.path(), interpreter, &before);
        }
        let json: serde_json::Value = serde_json::from_str(&out).map_err(|e| format!("{e}: {out}"))?;
        let result = &json["plan"]["result"];
        let codes: Vec<&str> =
            result["reasons"].as_array().into_iter().flatten().filter_map(|r| r["code"].as_str()).collect();
        if result["verdict"] != verdict || !code.is_empty() && !codes.contains(&code) {
            return Err(format!("verdict {} {codes:?}, expected {verdict} {code}", result["verdict"]));
        }
        let remarks = result["remarks"].to_string();
        if let Some(missing) = self.case.all("remark").find(|r| !remarks.contains(r.trim())) {
            return Err(format!("no remark has `{missing}`: {remarks}"));
        }
        // where the assumption does not hold, that it is told is all that can be asked
        let broken = verdict == "assumed" && self.case.all("broken").next().is_some();
        if broken { Ok(()) } else { self.compare(dir.path(), interpreter, &before) }
    }

    fn compare(&self, dir: &Path, interpreter: &str, before: &Output) -> Result<(), String> {
        // a step may make and move files
        let mut left: Vec<_> = ignore::Walk::new(dir).flatten().map(|e| e.into_path()).collect();
        let main = Path::new(&self.case.files[0].0);
        left.retain(|p| p.is_file() && p.extension() == main.extension());
        left.sort();
        let text: String = left.iter().map(|p| fs::read_to_string(p).expect("sources are text")).collect();
        let after = program(interpreter, dir, &self.case.files[0].0);
        if after.stdout != before.stdout || after.status != before.status {
            let (a, b) = (String::from_utf8_lossy(&before.stdout), String::from_utf8_lossy(&after.stdout));
            let e = String::from_utf8_lossy(&after.stderr);
            return Err(format!("behaves differently\n--- before\n{a}--- after\n{b}{e}--- code\n{text}"));
        }
        let lines = |s: &str| s.trim().replace("\\n", "\n");
        if let Some(missing) = self.case.all("see").find(|s| !text.contains(&lines(s))) {
            return Err(format!("the result lacks `{missing}`:\n{text}"));
        }
        let was_there = |(p, _): &(String, String)| fs::read_to_string(dir.join(p)).ok();
        let kept: String = self.case.files.iter().filter_map(was_there).collect();
        match self.case.all("not").find(|s| kept.contains(s.trim())) {
            Some(found) => Err(format!("the result has `{found}`:\n{text}")),
            None => Ok(()),
        }
    }
}

/// Runs all cases of one file; tells all that fail.
fn cases(file: &str, interpreter: &str) {
    if !has(interpreter) {
        return;
    }
    let list = load(file);
    assert!(!list.is_empty());
    let run = |c: &Case| Trial { case: c }.run(interpreter).err().map(|e| format!("=== {}\n{e}", c.name));
    let failures: Vec<String> = list.iter().filter_map(run).collect();
    assert!(failures.is_empty(), "{} of {} cases fail\n{}", failures.len(), list.len(), failures.join("\n"));
}

#[test]
fn lua() {
    cases("lua_values.txt", LUA);
    cases("lua_edits.txt", LUA);
    cases("lua_steps.txt", LUA);
    cases("lua_traps.txt", LUA);
    cases("lua_modules.txt", LUA);
}

#[test]
fn csharp() {
    cases("csharp_values.txt", CSHARP);
    cases("csharp_traps.txt", CSHARP);
    cases("csharp_edits.txt", CSHARP);
    cases("csharp_more.txt", CSHARP);
    cases("csharp_forms.txt", CSHARP);
    cases("csharp_files.txt", CSHARP);
    cases("csharp_classes.txt", CSHARP);
}

#[test]
fn php() {
    cases("php_values.txt", PHP);
    cases("php_edits.txt", PHP);
    cases("php_steps.txt", PHP);
    cases("php_traps.txt", PHP);
    cases("php_more.txt", PHP);
    cases("php_text.txt", PHP);
    cases("php_files.txt", PHP);
    cases("php_names.txt", PHP);
}

#[test]
fn python_values_and_results() {
    cases("python_values.txt", "python3");
}

#[test]
fn python_leaving_and_binding() {
    cases("python_binding.txt", "python3");
}

#[test]
fn python_places_and_names() {
    cases("python_places.txt", "python3");
}

#[test]
fn python_names_that_code_can_see() {
    cases("python_names.txt", "python3");
}

#[test]
fn python_extracting() {
    cases("python_extract.txt", "python3");
}

#[test]
fn python_outside_functions() {
    cases("python_top_level.txt", "python3");
}

#[test]
fn python_moving() {
    cases("python_move.txt", "python3");
}

#[test]
fn copies_into_turns() {
    cases("python_series.txt", "python3");
    cases("python_series_lists.txt", "python3");
    cases("javascript_series.txt", "node");
    cases("javascript_series_lists.txt", "node");
}

#[test]
fn copies_into_turns_where_types_are_written() {
    cases("typescript_series.txt", TSC);
    cases("typescript_series_lists.txt", TSC);
    cases("java_series.txt", JAVA);
}

#[test]
fn files_into_files() {
    cases("python_split_file.txt", "python3");
    cases("javascript_split_file.txt", "node");
}

#[test]
fn files_into_files_where_types_are_written() {
    cases("typescript_split_file.txt", TSC);
    cases("java_split_file.txt", JAVA);
}

#[test]
fn members_to_bases() {
    cases("python_lift.txt", "python3");
    cases("python_lift_values.txt", "python3");
    cases("javascript_lift_values.txt", "node");
    cases("javascript_lift.txt", "node");
}

#[test]
fn members_to_bases_where_types_are_written() {
    cases("typescript_lift.txt", TSC);
    cases("java_lift.txt", JAVA);
}

#[test]
fn members_to_other_classes() {
    cases("java_move.txt", JAVA);
}

#[test]
fn java_moving_classes() {
    cases("java_move_classes.txt", JAVA);
    cases("java_move_inner.txt", JAVA);
}

#[test]
fn typescript_moving() {
    cases("typescript_move.txt", TSC);
}

#[test]
fn javascript_moving() {
    cases("javascript_move.txt", "node");
}

#[test]
fn python_first_values() {
    cases("python_given.txt", "python3");
}

#[test]
fn javascript_outside_functions() {
    cases("javascript_top_level.txt", "node");
}

#[test]
fn javascript_values_and_results() {
    cases("javascript_values.txt", "node");
}

#[test]
fn javascript_leaving_and_binding() {
    cases("javascript_binding.txt", "node");
}

#[test]
fn python_ways_out() {
    cases("python_leaving.txt", "python3");
}

#[test]
fn javascript_ways_out() {
    cases("javascript_leaving.txt", "node");
}

#[test]
fn python_statements_that_some_lack() {
    cases("python_gaps.txt", "python3");
}

#[test]
fn javascript_statements_that_some_lack() {
    cases("javascript_gaps.txt", "node");
}

#[test]
fn python_parameters_that_follow_from_others() {
    cases("python_derived.txt", "python3");
}

#[test]
fn javascript_parameters_that_follow_from_others() {
    cases("javascript_derived.txt", "node");
}

#[test]
fn javascript_functions_that_return_functions() {
    cases("javascript_makers.txt", "node");
}

#[test]
fn javascript_places() {
    cases("javascript_places.txt", "node");
}

#[test]
fn into_files_without_a_copy() {
    cases("python_into.txt", "python3");
    cases("javascript_into.txt", "node");
    cases("typescript_into.txt", TSC);
}

#[test]
fn files_without_a_copy_unasked() {
    cases("python_elsewhere.txt", "python3");
    cases("javascript_elsewhere.txt", "node");
}

#[test]
fn typescript_types_that_conditions_tell() {
    cases("typescript_told.txt", TSC);
}

#[test]
fn typescript_types_and_values_of_one_name() {
    cases("typescript_spaces.txt", TSC);
}

#[test]
fn typescript_types() {
    cases("typescript.txt", TSC);
}

#[test]
fn typescript_types_that_differ() {
    cases("typescript_literals.txt", TSC);
    cases("typescript_types.txt", TSC);
}

#[test]
fn python_names_and_values() {
    cases("python_edits.txt", "python3");
}

#[test]
fn javascript_names_and_values() {
    cases("javascript_edits.txt", "node");
}

#[test]
fn python_inlining() {
    cases("python_inline.txt", "python3");
    cases("python_inline_again.txt", "python3");
    cases("python_inline_files.txt", "python3");
}

#[test]
fn users_that_no_binding_tells() {
    cases("python_users.txt", "python3");
    cases("javascript_users.txt", "node");
    cases("typescript_users.txt", TSC);
}

#[test]
fn what_a_program_can_see_of_a_step() {
    cases("python_seen.txt", "python3");
    cases("javascript_seen.txt", "node");
}

#[test]
fn javascript_inlining() {
    cases("javascript_inline.txt", "node");
    cases("javascript_inline_again.txt", "node");
    cases("javascript_inline_files.txt", "node");
}

#[test]
fn typescript_inlining() {
    cases("typescript_inline.txt", TSC);
    cases("typescript_inline_again.txt", TSC);
}

#[test]
fn java_values_and_types() {
    cases("java_values.txt", JAVA);
}

#[test]
fn java_function_types() {
    cases("java_functions.txt", JAVA);
}

#[test]
fn java_sketches() {
    cases("java_sketches.txt", JAVA);
}

#[test]
fn java_named_homes() {
    cases("java_into.txt", JAVA);
}

#[test]
fn python_bases() {
    cases("python_bases.txt", "python3");
}

#[test]
fn javascript_bases() {
    cases("javascript_bases.txt", "node");
    cases("typescript_bases.txt", TSC);
}

#[test]
fn local_classes_of_python() {
    cases("python_local_classes.txt", "python3");
}

#[test]
fn local_classes_of_javascript() {
    cases("javascript_local_classes.txt", "node");
}

#[test]
fn local_classes_of_java() {
    cases("java_local_classes.txt", JAVA);
}

#[test]
fn java_bases() {
    cases("java_bases.txt", JAVA);
}

#[test]
fn java_several_results() {
    cases("java_results.txt", JAVA);
}

#[test]
fn java_classes_and_files() {
    cases("java_classes.txt", JAVA);
}

#[test]
fn java_names() {
    cases("java_names.txt", JAVA);
}

#[test]
fn java_inlining() {
    cases("java_inline.txt", JAVA);
    cases("java_inline_again.txt", JAVA);
    cases("java_constants.txt", JAVA);
}

#[test]
fn java_parameters() {
    cases("java_param.txt", JAVA);
}

#[test]
fn variables_for_expressions() {
    cases("python_variable.txt", "python3");
    cases("javascript_variable.txt", "node");
}

#[test]
fn variables_for_expressions_with_types() {
    cases("typescript_variable.txt", TSC);
    cases("java_variable.txt", JAVA);
}

#[test]
fn splitting_functions() {
    cases("python_split.txt", "python3");
    cases("javascript_split.txt", "node");
}

#[test]
fn splitting_functions_with_types() {
    cases("typescript_split.txt", TSC);
    cases("java_split.txt", JAVA);
}

#[test]
fn tidying() {
    cases("python_tidy.txt", "python3");
    cases("javascript_tidy.txt", "node");
}

#[test]
fn tidying_with_types() {
    cases("typescript_tidy.txt", TSC);
    cases("java_tidy.txt", JAVA);
}

#[test]
fn sliding() {
    cases("python_slide.txt", "python3");
    cases("javascript_slide.txt", "node");
    cases("typescript_slide.txt", TSC);
    cases("java_slide.txt", JAVA);
}

#[test]
fn splitting_variables() {
    cases("python_split_variable.txt", "python3");
    cases("javascript_split_variable.txt", "node");
    cases("typescript_split_variable.txt", TSC);
    cases("java_split_variable.txt", JAVA);
}

#[test]
fn splitting_loops() {
    cases("python_split_loop.txt", "python3");
    cases("javascript_split_loop.txt", "node");
    cases("typescript_split_loop.txt", TSC);
    cases("java_split_loop.txt", JAVA);
}

#[test]
fn functions_for_variables() {
    cases("python_query.txt", "python3");
    cases("javascript_query.txt", "node");
    cases("java_query.txt", JAVA);
}
