package httpapi

import (
	"context"
	"net/http"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/people"
)

func (a *api) GetSetUp(ctx context.Context, _ apigen.GetSetUpRequestObject) (apigen.GetSetUpResponseObject, error) {
	open, err := a.Shop.SetUpOpen(ctx)
	return apigen.GetSetUp200JSONResponse{Open: open}, err
}

func (a *api) TrySetUpCode(ctx context.Context, req apigen.TrySetUpCodeRequestObject) (apigen.TrySetUpCodeResponseObject, error) {
	return apigen.TrySetUpCode204Response{}, a.Shop.TryCode(ctx, req.Body.Code)
}

func (a *api) SetUpShop(ctx context.Context, req apigen.SetUpShopRequestObject) (apigen.SetUpShopResponseObject, error) {
	owner, err := a.Shop.BeginShop(ctx, *req.Body)
	if err != nil {
		return nil, err
	}
	return a.signInHere(ctx, owner.ID, req.Body.Owner.Secret, people.Caller{Name: req.Body.Device}, http.StatusCreated)
}

func (a *api) RestoreShop(ctx context.Context, req apigen.RestoreShopRequestObject) (apigen.RestoreShopResponseObject, error) {
	if err := a.Shop.TryCode(ctx, req.Params.Code); err != nil {
		return nil, err
	}
	made, holds, err := a.Shop.RestoreShop(ctx, req.Body)
	return apigen.RestoreShop200JSONResponse{MadeAt: made, Bikes: holds.Bikes, Entries: holds.Entries}, err
}

func (a *api) GoThroughSetUp(ctx context.Context, req apigen.GoThroughSetUpRequestObject) (apigen.GoThroughSetUpResponseObject, error) {
	left, err := a.Shop.SetUpStepDone(ctx, actor(ctx), string(req.Step))
	return apigen.GoThroughSetUp200JSONResponse{Left: left}, err
}
