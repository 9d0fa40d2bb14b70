package clean

// An express job is done at the counter while the customer waits: a short look, a light route without a wash, cloth and blower
// in place of drying, and a short finish of look, brakes and axles (handbook: stand).

// How long an express job takes at most: by hand, and from door to door.
const (
	ExpressHands Minutes = 35
	ExpressDoor  Minutes = 50
)

// counter reports whether a route can be done at the counter.
func (r Route) counter() bool { return r == Wipe || r == Quick || r == Tray }

// express reports whether an order is done at the counter, where that was asked for: not where the chain goes.
func (o Order) express(asked bool) bool {
	return asked && o.Chain.counter() && o.Parts.counter() && o.Wash == NoWash
}

// IsExpress reports whether a plan is short enough to be called express: by the minutes of its own steps.
func (p Plan) IsExpress() bool {
	return p.Order.Express && p.Hands() <= ExpressHands && p.Ready() <= ExpressDoor
}
