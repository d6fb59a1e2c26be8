//! Random copies side by side, in Python and JavaScript alike: numbered locals, values of literals and names, and what must
//! keep them from being turns of a loop.

use super::Dice;

/// Statements in both languages; `#` is the copy's number, `$t` its text, `$n` its name, `$v` a local of its own.
const STATEMENTS: &[(&str, &str)] = &[
    ("$v = look($t)", "const $v = look($t);"),
    ("$v = look($t) + #", "let $v = look($t) + #;"),
    ("$v = #", "var $v = #;"),
    ("say(#, $v)", "say(#, $v);"),
    ("say($t, $n)", "say($t, $n);"),
    ("total += #", "total += #;"),
    ("total = total * 2 + $n", "total = total * 2 + $n;"),
    ("last = $t", "last = $t;"),
    ("say(last)", "say(last);"),
    ("later.append(lambda: $v)", "later.push(() => $v);"),
    ("later.append(lambda: (#, total))", "later.push(() => [#, total]);"),
    ("later.append(lambda: last)", "later.push(() => last);"),
    ("if total > # * 40:\n    say($t)", "if (total > # * 40) {\n  say($t);\n}"),
    ("if total > # * 90:\n    return $t", "if (total > # * 90) {\n  return $t;\n}"),
    (
        "for k in range(3):\n    if k == #:\n        break\n    say(k, $t)",
        "for (let k = 0; k < 3; k++) {\n  if (k === #) break;\n  say(k, $t);\n}",
    ),
    ("if total % 7 == #:\n    break", "if (total % 7 === #) break;"),
    ("one = # + 3", "one = # + 3;"),
    ("change()", "change();"),
    ("seen[$t] = #", "seen[$t] = #;"),
    ("say(sorted(seen))", "say(Object.keys(seen));"),
    ("say($n + #)", "say($n + #);"),
    ("say([k + # for k in (1, 2)])", "say([1, 2].map((k) => k + #));"),
    ("# a line on the copy", "// a line on the copy"),
    ("# of copy #", "// of copy #"),
];

const TEXTS: [&str; 4] = ["north", "south", "pier", "lock"];
const NAMES: [&str; 4] = ["one", "two", "three", "four"];

pub fn python(seed: u64) -> (String, usize) {
    let (copies, loops, count) = copies(seed, false);
    let outer = if loops { "    while total < 900:\n        total += 400\n" } else { "" };
    let head = "lines = []\nlater = []\n\n\ndef say(*values):\n    lines.append(values)\n\n\ndef look(text):\n    say('look', text)\n    return len(text)\n\n\n\
         def work(three, four):\n    one, two, total, last, seen = 1, 2, 0, '', {}\n\n    def change():\n        nonlocal two\n        two += 1\n\n";
    let indent = if loops { "        " } else { "    " };
    let body = indented(&copies, indent);
    let from = head.lines().count() + outer.lines().count() + 1;
    let tail = format!(
        "    say(total, last, one, two, {count})\n    return 'end'\n\n\nprint(work(3, 4))\nprint([f() for f in later])\nprint(lines)\n"
    );
    (format!("{head}{outer}{body}{tail}"), from)
}

pub fn javascript(seed: u64) -> (String, usize) {
    let (copies, loops, count) = copies(seed, true);
    let outer = if loops { "  while (total < 900) {\n    total += 400;\n" } else { "" };
    let head = "const lines = [];\nconst later = [];\n\nfunction say(...values) {\n  lines.push(values);\n}\n\nfunction look(text) {\n  say('look', text);\n  return text.length;\n}\n\n\
         function work(three, four) {\n  let one = 1;\n  let two = 2;\n  let total = 0;\n  let last = '';\n  const seen = {};\n  const change = () => {\n    two += 1;\n  };\n";
    let indent = if loops { "    " } else { "  " };
    let body = indented(&copies, indent);
    let from = head.lines().count() + outer.lines().count() + 1;
    let close = if loops { "  }\n" } else { "" };
    let tail = format!(
        "{close}  say(total, last, one, two, {count});\n  return 'end';\n}}\n\nconsole.log(work(3, 4));\nconsole.log(JSON.stringify(later.map((f) => f())));\nconsole.log(JSON.stringify(lines));\n"
    );
    (format!("{head}{outer}{body}{tail}"), from)
}

fn indented(text: &str, indent: &str) -> String {
    text.lines().map(|l| format!("{indent}{l}\n")).collect()
}

/// The copies, whether a loop is around them, and how many there are.
fn copies(seed: u64, script: bool) -> (String, bool, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let loops = dice.chance(25);
    let count = 3 + dice.roll(2) as usize;
    let mut body: Vec<&(&str, &str)> = Vec::new();
    // what makes the copies' own local stands first
    if dice.chance(70) {
        body.push(&STATEMENTS[dice.roll(3) as usize]);
    }
    let local = !body.is_empty();
    for _ in 0..1 + dice.roll(4) {
        let next = &STATEMENTS[3 + dice.roll(STATEMENTS.len() as u64 - 3) as usize];
        if (local || !next.0.contains("$v")) && (loops || !next.0.ends_with(":\n    break")) {
            body.push(next);
        }
    }
    body.push(&("say($t, #)", "say($t, #);"));
    let mut out = String::new();
    for i in 0..count {
        for (python, other) in &body {
            let comment = python.starts_with("# ");
            let text = if script { *other } else { *python };
            let (mark, rest) = if comment && !script { ("# ", &text[2..]) } else { ("", text) };
            let text = rest.replace('#', &(i + 1).to_string()).replace("$t", &format!("'{}'", TEXTS[i]));
            let text = text.replace("$n", NAMES[i]).replace("$v", &format!("v{}", i + 1));
            out.push_str(&format!("{mark}{text}\n"));
        }
    }
    (out, loops, count)
}
