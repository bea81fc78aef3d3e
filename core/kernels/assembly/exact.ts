// The elementary functions whose last bit differs from one JavaScript engine to the next. Compiled
// here, they give the same bits in every browser and every release of Node.
export function exp(x: f64): f64 { return NativeMath.exp(x) }
export function log(x: f64): f64 { return NativeMath.log(x) }
export function pow(x: f64, y: f64): f64 { return NativeMath.pow(x, y) }
export function sin(x: f64): f64 { return NativeMath.sin(x) }
export function cos(x: f64): f64 { return NativeMath.cos(x) }
export function atan2(y: f64, x: f64): f64 { return NativeMath.atan2(y, x) }
