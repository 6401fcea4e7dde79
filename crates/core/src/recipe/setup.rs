//! How a part is held while it prints.

use super::supports::Supports;
use crate::pose::Pose;

/// How a part is held: how it hangs, and by what.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Setup {
    /// Its orientation.
    pub pose: Pose,
    /// Its supports.
    pub supports: Supports,
}

impl Setup {
    /// As its file stands, without supports.
    pub const PLAIN: Self = Self {
        pose: Pose::AS_IMPORTED,
        supports: Supports::None,
    };
}
