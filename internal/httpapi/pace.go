package httpapi

import (
	"context"
	"errors"
	"net/http"
	"runtime"
	"time"

	"github.com/getkin/kin-openapi/routers"
	"github.com/gin-gonic/gin"
	"golang.org/x/sync/semaphore"
)

// pace is how long a request may take, from its first byte to the last of its answer.
type pace struct {
	whole time.Duration // until it is given up; zero for a stream, which ends when its reader leaves
}

var (
	fastest = pace{5 * time.Second}  // what answers at once or not at all
	usual   = pace{10 * time.Second} // everything else
	slow    = pace{time.Minute}      // files, both ways
	backups = pace{time.Hour}        // a whole shop
	endless = pace{}
)

// paceOf is how long an operation of the contract may take.
func paceOf(operation string) pace {
	switch operation {
	case "setPhoto", "addJobPhoto", "importRides", "answerRides", "takePassport", "importTable", "exportTable", "getPassport", "getCustomerData":
		return slow
	case "restoreShop":
		return backups
	case "streamEvents":
		return endless
	}
	return usual
}

// heavy are the operations that take a processor for a while. As many run at once as there are processors, so that
// whoever asks for something small meanwhile is answered at once.
var heavy = map[string]bool{"planJob": true, "getJobOptions": true, "offerPromise": true, "wantedBy": true, "getDaySheet": true, "tryFloor": true, "getFloor": true, "promiseJob": true, "keepStepFor": true, "noteAbsence": true, "dropAbsence": true,
	"previewRules": true, "previewDue": true, "calcDayPlan": true, "calcForecast": true, "importRides": true, "importTable": true, "takePassport": true}

var processors = semaphore.NewWeighted(int64(runtime.GOMAXPROCS(0)))

// inTurn has heavy operations wait for a processor. They hold no connection meanwhile.
func inTurn(c *gin.Context) {
	route, ok := c.Value(foundRoute).(*routers.Route)
	if !ok || !heavy[operationOf(route)] {
		return
	}
	if err := processors.Acquire(c.Request.Context(), 1); err != nil {
		if errors.Is(err, context.Canceled) { // whoever asked has gone
			c.Abort()
			return
		}
		c.Header("Retry-After", "2")
		refuse(c, http.StatusServiceUnavailable, "busy", "The server is busy. Try again in a moment.")
		return
	}
	defer processors.Release(1)
	c.Next()
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
