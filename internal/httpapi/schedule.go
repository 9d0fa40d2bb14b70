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
	floor, err := a.Shop.KeepFor(ctx, actor(ctx), req.Job, req.Step, *req.Body)
	return apigen.KeepStepFor200JSONResponse(floor), err
}

func (a *api) OfferPromise(ctx context.Context, req apigen.OfferPromiseRequestObject) (apigen.OfferPromiseResponseObject, error) {
	offer, err := a.Shop.OfferPromise(ctx, req.Tag, *req.Body)
	return apigen.OfferPromise200JSONResponse(offer), err
}

func (a *api) NoteAbsence(ctx context.Context, req apigen.NoteAbsenceRequestObject) (apigen.NoteAbsenceResponseObject, error) {
	floor, err := a.Shop.NoteAbsence(ctx, actor(ctx), req.Person, *req.Body)
	return apigen.NoteAbsence201JSONResponse(floor), err
}

func (a *api) DropAbsence(ctx context.Context, req apigen.DropAbsenceRequestObject) (apigen.DropAbsenceResponseObject, error) {
	floor, err := a.Shop.DropAbsence(ctx, actor(ctx), req.Absence)
	return apigen.DropAbsence200JSONResponse(floor), err
}

func (a *api) WantedBy(ctx context.Context, req apigen.WantedByRequestObject) (apigen.WantedByResponseObject, error) {
	wanted, err := a.Shop.WantedBy(ctx, req.Tag, *req.Body)
	return apigen.WantedBy200JSONResponse(wanted), err
}

func (a *api) GetDaySheet(ctx context.Context, req apigen.GetDaySheetRequestObject) (apigen.GetDaySheetResponseObject, error) {
	day := ""
	if req.Params.Day != nil {
		day = *req.Params.Day
	}
	sheet, err := a.Shop.DaySheet(ctx, day)
	return apigen.GetDaySheet200JSONResponse(sheet), err
}
