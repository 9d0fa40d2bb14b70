package httpapi

import (
	"context"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
)

// pace is how long a request may take, from its first byte to the last of its answer.
type pace struct {
	whole time.Duration // until it is given up; zero for a stream, which ends when its reader leaves
}

var (
	fastest = pace{5 * time.Second}  // what answers at once or not at all
	usual   = pace{10 * time.Second} // everything else
	slow    = pace{time.Minute}      // files, both ways
	endless = pace{}
)

// paceOf is how long an operation of the contract may take.
func paceOf(operation string) pace {
	switch operation {
	case "setPhoto", "addJobPhoto", "importRides", "answerRides", "takePassport", "importTable", "exportTable", "getPassport", "getCustomerData":
		return slow
	case "streamEvents":
		return endless
	}
	return usual
}

// deadlines sets how long a request's body may take to come, its work to be done and its answer to be read.
func deadlines(p pace) gin.HandlerFunc {
	return func(c *gin.Context) {
		var until time.Time // never
		if p.whole > 0 {
			until = time.Now().Add(p.whole)
			ctx, cancel := context.WithDeadline(c.Request.Context(), until)
			defer cancel()
			c.Request = c.Request.WithContext(ctx)
			// The work ends first, so that there is time to say so.
			until = until.Add(fastest.whole)
		}
		control := http.NewResponseController(c.Writer)
		_ = control.SetReadDeadline(until) // where the connection cannot, the context still ends the work
		_ = control.SetWriteDeadline(until)
		c.Next()
	}
}
