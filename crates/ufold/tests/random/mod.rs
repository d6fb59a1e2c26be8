#![allow(dead_code)] // each test uses a part

//! Makers of random programs, one for each language.

pub mod classes;
pub mod csharp;
pub mod java;
pub mod javascript;
pub mod lua;
pub mod members;
pub mod modules;
pub mod packages;
pub mod php;
pub mod python;
pub mod room;
pub mod series;

/// A small generator of numbers (xorshift64*), so that a seed gives the same program everywhere.
pub struct Dice(pub u64);

impl Dice {
    pub fn roll(&mut self, sides: u64) -> u64 {
        self.0 ^= self.0 >> 12;
        self.0 ^= self.0 << 25;
        self.0 ^= self.0 >> 27;
        (self.0.wrapping_mul(0x2545_f491_4f6c_dd1d) >> 33) % sides
    }
    pub fn pick<'a>(&mut self, list: &[&'a str]) -> &'a str {
        list[self.roll(list.len() as u64) as usize]
    }
    pub fn chance(&mut self, percent: u64) -> bool {
        self.roll(100) < percent
    }
}

/// Grows a block of code, statement by statement.
pub trait Grower {
    fn dice(&mut self) -> &mut Dice;
    fn depth(&mut self) -> &mut usize;
    fn line(&mut self, text: &str);
    fn statement(&mut self);

    fn block(&mut self, most: u64) {
        *self.depth() += 1;
        for _ in 0..1 + self.dice().roll(most) {
            self.statement();
        }
        *self.depth() -= 1;
    }

    fn body(&mut self, head: &str, most: u64, tail: &str) {
        self.line(head);
        self.block(most);
        self.line(tail);
    }
}

/// The text at times without one of the outermost lines that begin so.
fn lacking(dice: &mut Dice, text: &str, starts: &[&str]) -> String {
    let indent = text.len() - text.trim_start().len();
    let may_go =
        |l: &&str| l.len() - l.trim_start().len() == indent && starts.iter().any(|s| l.trim_start().starts_with(s));
    let lines: Vec<&str> = text.lines().filter(may_go).collect();
    if lines.is_empty() || !dice.chance(25) {
        return text.to_string();
    }
    text.replacen(&format!("{}\n", dice.pick(&lines)), "", 1)
}

/// A program with lines strewn in that may be in the way: `spare` before any line, `behind` after ways out. From a line
/// on, in its block, where one is given.
pub fn cluttered(seed: u64, text: &str, from: usize, spare: &[&str], behind: &[&str]) -> String {
    let mut dice = Dice(seed.wrapping_mul(0xd134_2543_de82_ef95) | 1);
    let mut out = String::new();
    let mut last = "";
    let block = text.lines().nth(from.saturating_sub(1)).map_or(0, |l| l.len() - l.trim_start().len());
    let (mut n, mut over) = (0, false);
    for l in text.lines() {
        n += 1;
        let indent = &l[..l.len() - l.trim_start().len()];
        over |= n > from && from > 0 && indent.len() < block;
        if n < from || over {
            out.push_str(l);
            out.push('\n');
            continue;
        }
        let begins = l.trim_start().starts_with(char::is_alphabetic) && !indent.is_empty();
        let inner = ["else", "elif", "except", "catch", "finally", "case", "default"];
        let open = last.trim_end().ends_with([':', '{', ';', '}']) || !last.trim_end().ends_with([',', '(', '[', '=']);
        // before a member of a class nothing can stand
        let heads = ["if", "for", "while", "switch", "try", "do "];
        let member = l.ends_with('{') && !heads.iter().any(|w| l.trim_start().starts_with(w));
        if begins && open && !member && !inner.iter().any(|w| l.trim_start().starts_with(w)) && dice.chance(12) {
            out.push_str(&format!("{indent}{}\n", dice.pick(spare)));
        }
        out.push_str(l);
        out.push('\n');
        let way_out = ["return", "break", "continue", "raise", "throw"].iter().any(|w| l.trim_start().starts_with(w));
        if way_out && l.trim_end().ends_with(|c: char| c.is_alphanumeric() || ";)]".contains(c)) && dice.chance(40) {
            out.push_str(&format!("{indent}{}\n", dice.pick(behind)));
        }
        last = l;
    }
    out
}
