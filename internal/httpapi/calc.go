package httpapi

import (
	"context"

	"earnestpony/internal/calc"
	"earnestpony/internal/httpapi/apigen"
)

func (a *api) CalcWear(_ context.Context, req apigen.CalcWearRequestObject) (apigen.CalcWearResponseObject, error) {
	answer, err := calc.Wear(*req.Body)
	return (*apigen.CalcWear200JSONResponse)(answer), err
}

func (a *api) CalcForecast(_ context.Context, req apigen.CalcForecastRequestObject) (apigen.CalcForecastResponseObject, error) {
	answer, err := calc.Forecast(*req.Body)
	return (*apigen.CalcForecast200JSONResponse)(answer), err
}

func (a *api) CalcCost(_ context.Context, req apigen.CalcCostRequestObject) (apigen.CalcCostResponseObject, error) {
	answer, err := calc.Cost(*req.Body)
	return (*apigen.CalcCost200JSONResponse)(answer), err
}

func (a *api) CalcLength(_ context.Context, req apigen.CalcLengthRequestObject) (apigen.CalcLengthResponseObject, error) {
	answer, err := calc.Length(*req.Body)
	return (*apigen.CalcLength200JSONResponse)(answer), err
}

func (a *api) CalcGear(_ context.Context, req apigen.CalcGearRequestObject) (apigen.CalcGearResponseObject, error) {
	answer, err := calc.Gear(*req.Body)
	return (*apigen.CalcGear200JSONResponse)(answer), err
}

func (a *api) CalcSingle(_ context.Context, req apigen.CalcSingleRequestObject) (apigen.CalcSingleResponseObject, error) {
	answer, err := calc.Single(*req.Body)
	return (*apigen.CalcSingle200JSONResponse)(answer), err
}

func (a *api) CalcMix(_ context.Context, req apigen.CalcMixRequestObject) (apigen.CalcMixResponseObject, error) {
	answer, err := calc.Mix(*req.Body)
	return (*apigen.CalcMix200JSONResponse)(answer), err
}

func (a *api) CalcLube(_ context.Context, req apigen.CalcLubeRequestObject) (apigen.CalcLubeResponseObject, error) {
	answer, err := calc.Lube(*req.Body)
	return (*apigen.CalcLube200JSONResponse)(answer), err
}

func (a *api) CalcDayPlan(ctx context.Context, req apigen.CalcDayPlanRequestObject) (apigen.CalcDayPlanResponseObject, error) {
	answer, err := calc.DayPlan(ctx, *req.Body)
	return (*apigen.CalcDayPlan200JSONResponse)(answer), err
}

func (a *api) CalcDue(_ context.Context, req apigen.CalcDueRequestObject) (apigen.CalcDueResponseObject, error) {
	answer, err := calc.Due(*req.Body)
	return (*apigen.CalcDue200JSONResponse)(answer), err
}

func (a *api) CalcRoute(_ context.Context, req apigen.CalcRouteRequestObject) (apigen.CalcRouteResponseObject, error) {
	answer, err := calc.Route(*req.Body)
	return (*apigen.CalcRoute200JSONResponse)(answer), err
}
