// Several ways of doing the operation in hand, beside each other in one table, over the view.
#pragma once
#include "model/Variants.h"
#include "panels/OverView.h"

class QGridLayout;
class QLabel;
class QPushButton;

namespace gyre {

class VariantsPanel : public OverView {
    Q_OBJECT
public:
    VariantsPanel(OpenJob& open, Variants& variants, QWidget* parent);

private:
    void close() override { m_variants.open(false); }
    [[nodiscard]] int high() const override;
    bool eventFilter(QObject* watched, QEvent* e) override;
    void refresh();
    void fillTable();
    void addColumn(int column, const VariantResult& variant, bool inHand);
    QLabel* cell(const QString& text, int row, int column, const char* role);
    OpenJob& m_open;
    Variants& m_variants;
    QLabel* m_trouble;
    QPushButton *m_add, *m_keep;
    QWidget* m_table = nullptr;
    QGridLayout* m_grid = nullptr;
};

} // namespace gyre
