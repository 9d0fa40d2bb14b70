// Package people is who works in the shop: names, roles, PINs and passwords, and the sessions of those who are signed
// in on its devices.
//
// It promises that a PIN is never kept but as a hash, that guessing is slowed down by person and by device whatever
// the number of requests at once, and that a session ends when it was not used for as long as the shop's rules say.
//
//	in, err := people.SignIn(ctx, person, "2718", people.Caller{Device: "stand 1"})
//	who, err := people.Authenticate(ctx, in.Token) // in each request that follows
package people

import "earnestpony/internal/shop/record"

// People knows who works in the shop and who is signed in.
type People struct {
	desk *record.Desk
	// SimulatedTool and SimulatedGateway are told to the page with who is signed in: that a stand-in for a tool may
	// be plugged in, and that messages go to a stand-in to which the page may reply.
	SimulatedTool, SimulatedGateway bool
	cost                            hashCost
}

// New returns the shop's people.
func New(desk *record.Desk) *People { return &People{desk: desk, cost: serving} }

// HashAtNoCost makes secrets as cheap to try as argon2id lets them be. It is for tests, which sign in all the time.
func (s *People) HashAtNoCost() { s.cost = hashCost{time: 1, memory: 8} }
