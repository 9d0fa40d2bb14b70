package httpapi

import (
	"context"

	"earnestpony/internal/httpapi/apigen"
)

func (a *api) GetFloor(ctx context.Context, _ apigen.GetFloorRequestObject) (apigen.GetFloorResponseObject, error) {
	floor, err := a.Shop.Floor(ctx)
	return apigen.GetFloor200JSONResponse(floor), err
}

func (a *api) TryFloor(ctx context.Context, req apigen.TryFloorRequestObject) (apigen.TryFloorResponseObject, error) {
	cost, err := a.Shop.TryFloor(ctx, *req.Body)
	return apigen.TryFloor200JSONResponse(cost), err
}

func (a *api) PromiseJob(ctx context.Context, req apigen.PromiseJobRequestObject) (apigen.PromiseJobResponseObject, error) {
	floor, err := a.Shop.PromiseJob(ctx, actor(ctx), req.Job, *req.Body)
	return apigen.PromiseJob200JSONResponse(floor), err
}

func (a *api) KeepStepFor(ctx context.Context, req apigen.KeepStepForRequestObject) (apigen.KeepStepForResponseObject, error) {
	floor, err := a.Shop.KeepFor(ctx, actor(ctx), req.Job, req.Step, req.Body.Person)
	return apigen.KeepStepFor200JSONResponse(floor), err
}

func (a *api) OfferPromise(ctx context.Context, req apigen.OfferPromiseRequestObject) (apigen.OfferPromiseResponseObject, error) {
	offer, err := a.Shop.OfferPromise(ctx, req.Tag, *req.Body)
	return apigen.OfferPromise200JSONResponse(offer), err
}
