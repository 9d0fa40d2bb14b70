package dayplan

import (
	"slices"
)

// Places: what stands in them, and when there is room.

// freeFrom is the first minute from one on at which the place of a hold has a unit for so long.
func (b *board) freeFrom(h, from, long int) int {
	for {
		in := b.full(h, from, from+long)
		if in == nil {
			return from
		}
		from = b.firstOut(in)
	}
}

// full are the holds that are in a place at the first minute of a stretch at which there is no unit for
// another; nil where there always is. For a hold that began with a fixed step only those minutes count at
// which one is there that did not: what is in its place already stays, even where that is too much.
func (b *board) full(h, from, to int) []int {
	place := b.s.holds[h].place
	others := b.held[place]
	if len(others) < b.s.places[place] {
		return nil
	}
	in := func(at int) (in []int) {
		n := 0
		for _, o := range others {
			if o != h && b.from[o] <= at && at < b.heldUntil(o) {
				n++
			}
		}
		if n < b.s.places[place] {
			return nil
		}
		joins := !b.begun(h)
		for _, o := range others {
			if o != h && b.from[o] <= at && at < b.heldUntil(o) {
				in = append(in, o)
				joins = joins || !b.begun(o)
			}
		}
		if !joins {
			return nil
		}
		return in
	}
	first, when := in(from), from
	if first != nil || to <= from {
		return first
	}
	for _, o := range others {
		if at := b.from[o]; from < at && at < to && (first == nil || at < when) {
			if found := in(at); found != nil {
				first, when = found, at
			}
		}
	}
	return first
}

// heldUntil is when a hold is over; as far as is known, or never where it is not.
func (b *board) heldUntil(h int) int {
	if b.wary && b.start[b.s.holds[h].to] < 0 {
		return never
	}
	return b.until[h]
}

func (b *board) begun(h int) bool { return b.s.tasks[b.s.holds[h].from].fixed }

func (b *board) firstOut(in []int) int {
	out := never
	for _, h := range in {
		out = min(out, b.heldUntil(h))
	}
	return out
}

// holdsUntil is when a hold is over as far as is known.
func (b *board) holdsUntil(h int) int {
	one := &b.s.holds[h]
	if b.start[one.to] >= 0 {
		if one.through {
			return b.end(one.to)
		}
		return b.start[one.to]
	}
	last := 0
	for _, t := range one.members {
		if b.start[t] >= 0 {
			last = max(last, b.end(t))
		}
	}
	return last
}

// room takes for a task the places that its job holds by it, and reports whether they are free for as long as
// that takes. Where not, nothing is taken and what began too early is put off.
func (b *board) room(t, start int) bool {
	b.start[t] = start
	b.takePlaces(t)
	for _, h := range b.s.tasks[t].holds {
		if b.from[h] < 0 {
			continue
		}
		in := b.full(h, b.from[h], b.until[h])
		if in == nil {
			continue
		}
		off, until := b.s.holds[h].from, b.firstOut(in)
		if b.begun(h) {
			// Whoever was to come in meanwhile waits.
			i := slices.IndexFunc(in, func(o int) bool { return !b.begun(o) })
			off, until = b.s.holds[in[i]].from, b.until[h]
		}
		b.start[t] = -1
		b.takePlaces(t)
		if off == t { // as many units as it takes there are not
			b.drop(t, NoPlace)
			return false
		}
		if b.s.tasks[off].job != b.s.tasks[t].job {
			b.queue = append(b.queue, t)
		}
		b.putOff(t, off, until, NoPlace)
		return false
	}
	return true
}

// takePlaces brings the holds that a task is part of up to where it is placed, or is not.
func (b *board) takePlaces(t int) {
	for _, h := range b.s.tasks[t].holds {
		one := &b.s.holds[h]
		if one.from == t {
			b.from[h] = b.start[t]
			b.held[one.place] = slices.DeleteFunc(b.held[one.place], func(k int) bool { return k == h })
			if b.start[t] >= 0 {
				b.held[one.place] = append(b.held[one.place], h)
			}
		}
		b.until[h] = b.holdsUntil(h)
		b.changed[one.place]++
	}
}
