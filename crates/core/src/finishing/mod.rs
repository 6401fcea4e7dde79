//! What happens to copies between the printer and the judgement: the steps, the order that
//! practice, resin and part permit, batches on their way, and who is next at which station.

pub mod batch;
pub mod cautions;
pub mod cure;
pub mod queue;
pub mod route;
mod step;

pub use batch::{Batch, BatchAct, BatchState, BatchStep, StepState};
pub use route::{
    RouteAsk, RouteFault, RouteStep, check_route, route_for, route_washed_in, wash_agent,
};
pub use step::{Station, Step};
