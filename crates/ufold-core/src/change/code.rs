//! What speaks against a plan, or must be assumed for it: the codes of reasons. What each means stands in docs/reasons.md.

use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Serialize};

macro_rules! codes {
    ($($name:ident = $word:literal,)*) => {
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, schemars::JsonSchema)]
        pub enum Code {
            $(#[serde(rename = $word)] $name,)*
        }

        impl Code {
            /// All, in the order of their words.
            pub const ALL: &[Code] = &[$(Code::$name,)*];

            pub fn word(self) -> &'static str {
                match self {
                    $(Code::$name => $word,)*
                }
            }
        }
    };
}

codes! {
    Audit = "audit",
    BadName = "bad-name",
    BadParameters = "bad-parameters",
    BorrowedMethod = "borrowed-method",
    BuildList = "build-list",
    Captured = "captured",
    ChangingValue = "changing-value",
    ConditionalHole = "conditional-hole",
    ConstantWritten = "constant-written",
    ConstructorMember = "constructor-member",
    DeclaredHere = "declared-here",
    DeletesLocal = "deletes-local",
    Demanded = "demanded",
    DifferentStatements = "different-statements",
    EarlyRead = "early-read",
    EvaluatedAgain = "evaluated-again",
    EvaluationOrder = "evaluation-order",
    FileVariable = "file-variable",
    ForeignName = "foreign-name",
    GoneThroughAgain = "gone-through-again",
    HoleNoValue = "hole-no-value",
    HoleUsesLocal = "hole-uses-local",
    ImportEffects = "import-effects",
    ImportPath = "import-path",
    ImportsAll = "imports-all",
    InPlace = "in-place",
    InconsistentRenaming = "inconsistent-renaming",
    InheritedName = "inherited-name",
    Internal = "internal",
    KeptOverCalls = "kept-over-calls",
    LeavesLoop = "leaves-loop",
    Lifetime = "lifetime",
    LittleGain = "little-gain",
    LookedUp = "looked-up",
    MaybeUnbound = "maybe-unbound",
    MemberByName = "member-by-name",
    Mode = "mode",
    MoreThanAValue = "more-than-a-value",
    NameHidden = "name-hidden",
    NameTaken = "name-taken",
    NamedArgument = "named-argument",
    NamedByString = "named-by-string",
    NarrowedHere = "narrowed-here",
    NeedsAPerson = "needs-a-person",
    NeedsClass = "needs-class",
    NeverEnds = "never-ends",
    NeverRuns = "never-runs",
    NeverUsed = "never-used",
    NoClutter = "no-clutter",
    NoFunction = "no-function",
    NoHome = "no-home",
    NoLoop = "no-loop",
    NoParameter = "no-parameter",
    NoPart = "no-part",
    NoSingleValue = "no-single-value",
    NoStatements = "no-statements",
    NoStepYet = "no-step-yet",
    NotAName = "not-a-name",
    NotAValue = "not-a-value",
    NotScanned = "not-scanned",
    NotebookLine = "notebook-line",
    OddCall = "odd-call",
    OneCopy = "one-copy",
    OneVariable = "one-variable",
    Order = "order",
    OtherBlock = "other-block",
    OtherMember = "other-member",
    OtherShape = "other-shape",
    OutputGone = "output-gone",
    OutsideFunction = "outside-function",
    OutsideUsers = "outside-users",
    Overlap = "overlap",
    Overloaded = "overloaded",
    Overridden = "overridden",
    PartialReturn = "partial-return",
    PlainValue = "plain-value",
    ReadWhenLeft = "read-when-left",
    RebindsCaptured = "rebinds-captured",
    RebindsOuter = "rebinds-outer",
    Reflection = "reflection",
    SameAgain = "same-again",
    SeenByHandler = "seen-by-handler",
    SeveralResults = "several-results",
    SharedLine = "shared-line",
    ShownName = "shown-name",
    ShownValue = "shown-value",
    StackSeen = "stack-seen",
    StoredObjects = "stored-objects",
    Swallowed = "swallowed",
    Syntax = "syntax",
    ToldBefore = "told-before",
    TooManyParameters = "too-many-parameters",
    Turns = "turns",
    TypedDeclaration = "typed-declaration",
    UnclearUse = "unclear-use",
    UnitedTypes = "united-types",
    UnknownExceptions = "unknown-exceptions",
    UnknownMember = "unknown-member",
    UnknownType = "unknown-type",
    Unparsed = "unparsed",
    Unreadable = "unreadable",
    UsedAsValue = "used-as-value",
    UsedElsewhere = "used-elsewhere",
    WantsPieces = "wants-pieces",
    WantsSplit = "wants-split",
    WritesLocal = "writes-local",
    Yield = "yield",
}

impl fmt::Display for Code {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.pad(self.word())
    }
}

impl FromStr for Code {
    type Err = String;

    fn from_str(word: &str) -> Result<Code, String> {
        let found = Code::ALL.iter().copied().find(|c| c.word() == word);
        found.ok_or_else(|| format!("{word} is no code of a reason"))
    }
}
