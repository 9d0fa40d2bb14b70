package httpapi

import (
	"context"
	"fmt"
	"io"
	"time"

	"earnestpony/internal/calc"
	"earnestpony/internal/httpapi/apigen"
)

func (a *api) ReadBench(ctx context.Context, req apigen.ReadBenchRequestObject) (apigen.ReadBenchResponseObject, error) {
	answer, err := a.Shop.ReadBench(ctx, *req.Body)
	return apigen.ReadBench200JSONResponse(answer), err
}

func (a *api) RecordMeasurement(ctx context.Context, req apigen.RecordMeasurementRequestObject) (apigen.RecordMeasurementResponseObject, error) {
	m, err := a.Shop.RecordMeasurement(ctx, actor(ctx), req.Tag, *req.Body)
	return apigen.RecordMeasurement201JSONResponse(m), err
}

func (a *api) SimulateReading(_ context.Context, req apigen.SimulateReadingRequestObject) (apigen.SimulateReadingResponseObject, error) {
	text, err := a.Shop.SimulateReading(*req.Body)
	return apigen.SimulateReading200JSONResponse{Text: text}, err
}

func (a *api) CalcWear(_ context.Context, req apigen.CalcWearRequestObject) (apigen.CalcWearResponseObject, error) {
	answer, err := calc.Wear(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcWear200JSONResponse(*answer), nil
}

func (a *api) CalcForecast(_ context.Context, req apigen.CalcForecastRequestObject) (apigen.CalcForecastResponseObject, error) {
	answer, err := calc.Forecast(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcForecast200JSONResponse(*answer), nil
}

func (a *api) CalcCost(_ context.Context, req apigen.CalcCostRequestObject) (apigen.CalcCostResponseObject, error) {
	answer, err := calc.Cost(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcCost200JSONResponse(*answer), nil
}

func (a *api) CalcLength(_ context.Context, req apigen.CalcLengthRequestObject) (apigen.CalcLengthResponseObject, error) {
	answer, err := calc.Length(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcLength200JSONResponse(*answer), nil
}

func (a *api) CalcGear(_ context.Context, req apigen.CalcGearRequestObject) (apigen.CalcGearResponseObject, error) {
	answer, err := calc.Gear(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcGear200JSONResponse(*answer), nil
}

func (a *api) CalcSingle(_ context.Context, req apigen.CalcSingleRequestObject) (apigen.CalcSingleResponseObject, error) {
	answer, err := calc.Single(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcSingle200JSONResponse(*answer), nil
}

func (a *api) CalcMix(_ context.Context, req apigen.CalcMixRequestObject) (apigen.CalcMixResponseObject, error) {
	answer, err := calc.Mix(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcMix200JSONResponse(*answer), nil
}

func (a *api) CalcLube(_ context.Context, req apigen.CalcLubeRequestObject) (apigen.CalcLubeResponseObject, error) {
	answer, err := calc.Lube(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcLube200JSONResponse(*answer), nil
}

func (a *api) CalcDayPlan(ctx context.Context, req apigen.CalcDayPlanRequestObject) (apigen.CalcDayPlanResponseObject, error) {
	answer, err := calc.DayPlan(ctx, *req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcDayPlan200JSONResponse(*answer), nil
}

func (a *api) CalcDue(_ context.Context, req apigen.CalcDueRequestObject) (apigen.CalcDueResponseObject, error) {
	answer, err := calc.Due(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcDue200JSONResponse(*answer), nil
}

func (a *api) CalcRoute(_ context.Context, req apigen.CalcRouteRequestObject) (apigen.CalcRouteResponseObject, error) {
	answer, err := calc.Route(*req.Body)
	if err != nil {
		return nil, err
	}
	return apigen.CalcRoute200JSONResponse(*answer), nil
}

// usualHeartbeat keeps whatever stands between from closing a stream that has nothing to say.
const usualHeartbeat = 20 * time.Second

// StreamEvents tells the page what changes. The generated server flushes after each piece.
func (a *api) StreamEvents(ctx context.Context, _ apigen.StreamEventsRequestObject) (apigen.StreamEventsResponseObject, error) {
	token := tokenOf(request(ctx))
	heartbeat := a.Heartbeat
	if heartbeat == 0 {
		heartbeat = usualHeartbeat
	}
	reader, writer := io.Pipe()
	changes, end := a.Hub.Subscribe()
	go func() {
		defer end()
		defer func() { _ = writer.Close() }() // never fails
		tick := time.NewTicker(heartbeat)
		defer tick.Stop()
		_, err := io.WriteString(writer, "retry: 1000\nevent: ready\ndata: {}\n\n")
		for err == nil {
			select {
			case <-ctx.Done():
				return
			case change, open := <-changes:
				if !open {
					return
				}
				_, err = fmt.Fprintf(writer, "event: change\ndata: %s\n\n", change)
			case <-tick.C:
				if err := a.Shop.StillSignedIn(ctx, token); err != nil {
					return // the page asks again, and hears who may
				}
				_, err = io.WriteString(writer, ": still here\n\n")
			}
		}
	}()
	return apigen.StreamEvents200TexteventStreamResponse{Body: reader}, nil
}
