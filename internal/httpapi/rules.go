package httpapi

import (
	"context"

	"earnestpony/internal/httpapi/apigen"
)

func (a *api) GetRules(ctx context.Context, _ apigen.GetRulesRequestObject) (apigen.GetRulesResponseObject, error) {
	rules, err := a.Shop.CurrentRules(ctx)
	return apigen.GetRules200JSONResponse(rules), err
}

func (a *api) ListSettingChanges(ctx context.Context, req apigen.ListSettingChangesRequestObject) (apigen.ListSettingChangesResponseObject, error) {
	page, err := a.Shop.SettingChanges(ctx, actor(ctx), valueOr(req.Params.Before, 0), valueOr(req.Params.Limit, pageOfEntries))
	return apigen.ListSettingChanges200JSONResponse(page), err
}

func (a *api) ChangeRules(ctx context.Context, req apigen.ChangeRulesRequestObject) (apigen.ChangeRulesResponseObject, error) {
	rules, err := a.Shop.ChangeRules(ctx, actor(ctx), req.Body.Version, req.Body.Rules)
	return apigen.ChangeRules200JSONResponse(rules), err
}
