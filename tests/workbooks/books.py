"""Workbooks of several trades, as texts for judge.py, with 50 runs of each. Run in this folder:

    books.py; judge.py make *.txt; judge.py runs BOOK.xlsx BOOK.csv for each

Each has its inputs on the sheet Inputs and its results on the sheet Result; all figures are invented.
"""
import csv
import random
from string import ascii_uppercase


def column(number):
    letters = ""
    while number > 0:
        letters = ascii_uppercase[(number - 1) % 26] + letters
        number = (number - 1) // 26
    return letters


class Book:
    def __init__(self, title):
        self.lines = ["# " + title]

    def sheet(self, name):
        self.lines.append("[%s]" % name)

    def put(self, place, content, shown=None):
        self.lines.append("\t".join(([shown] if shown else []) + [place, str(content)]))

    def name(self, name, formula):
        self.lines.append("name\t%s\t%s" % (name, formula))

    def row(self, number, label, contents, first=2, shown=None):
        self.put("A%d" % number, label)
        for i, content in enumerate(contents):
            self.put("%s%d" % (column(first + i), number), content, shown)

    def save(self, name, inputs, outputs):
        """`inputs`: places with the ends between which they lie in the runs; `outputs`: places."""
        with open(name + ".txt", "w", encoding="utf-8") as out:
            out.write("\n".join(self.lines) + "\n")
        draw = random.Random(20)
        with open(name + ".csv", "w", encoding="utf-8", newline="") as out:
            rows = csv.writer(out, lineterminator="\n")
            rows.writerow([place for place, _, _ in inputs] + [""] + outputs)
            for _ in range(50):
                rows.writerow([repr(round(draw.uniform(low, high), 6)) for _, low, high in inputs] + [""] * (1 + len(outputs)))


def result_cells(*rows):
    return ["Result!B%d" % row for row in rows]


def tariff():
    """Valdehoz' water tariff over 15 years: investment, loan, tariff; a look-up of pipe prices, a decision."""
    book = Book("Valdehoz: does the water tariff carry the new main over 15 years?")
    book.sheet("Inputs")
    book.put("A1", "Water tariff of Valdehoz, a made-up town")
    inputs = [
        ("households", "Households", 2150, "", None), ("growth", "Growth of households a year", 0.008, "", "percent"),
        ("demand", "Demand of a household", 128, "m3/year", None), ("losses", "Water lost on the way", 0.18, "", "percent"),
        ("tariff", "Tariff today", 1.06, "EUR/m3", "money"), ("rise", "Rise of the tariff a year", 0.02, "", "percent"),
        ("energy_price", "Price of energy", 0.17, "EUR/kWh", "money"), ("energy_use", "Energy to lift water", 0.55, "kWh/m3", None),
        ("staff", "Staff", 148000, "EUR/year", "money"), ("inflation", "Inflation", 0.022, "", "percent"),
        ("pipe_length", "Length of the main", 4200, "m", None), ("diameter", "Diameter chosen", 250, "mm", None),
        ("trench", "Trench", 95, "EUR/m", "money"), ("loan_share", "Share paid by a loan", 0.7, "", "percent"),
        ("loan_rate", "Rate of the loan", 0.039, "", "percent"), ("loan_years", "Years of the loan", 12, "years", None),
        ("discount", "Discount rate", 0.04, "", "percent"), ("pump_year", "Year in which the pumps are renewed", 8, "", None),
        ("pump_cost", "New pumps", 64000, "EUR", "money"), ("reserve", "Reserve at the beginning", 300000, "EUR", "money"),
    ]
    for i, (name, label, value, unit, shown) in enumerate(inputs):
        book.put("A%d" % (i + 3), label)
        book.put("B%d" % (i + 3), value, shown)
        if unit:
            book.put("C%d" % (i + 3), unit)
        book.name(name, "Inputs!$B$%d" % (i + 3))
    book.put("A24", "First year")
    book.put("B24", "46388", "date")
    book.sheet("Pipes")
    book.row(1, "Diameter, mm", ["Pipe, EUR/m", "Head loss, m/km"])
    for i, (size, price, loss) in enumerate([(150, 62, 31.4), (200, 88, 7.7), (250, 121, 2.6), (300, 164, 1.1), (350, 214, 0.5)]):
        book.put("A%d" % (i + 2), size)
        book.put("B%d" % (i + 2), price, "money")
        book.put("C%d" % (i + 2), loss)
    book.sheet("Plan")
    years = range(1, 16)
    at = [column(year + 2) for year in years]  # B holds what is before the first year
    before = [column(year + 1) for year in years]
    book.row(1, "Year", [str(year) for year in years], 3)
    book.row(2, "Begins", ["=EDATE(Inputs!$B$24,12*(%s1-1))" % c for c in at], 3, "date")
    book.put("B3", "=households")
    book.row(3, "Households", ["=%s3*(1+growth)" % b for b in before], 3)
    book.row(4, "Sold, m3", ["=%s3*demand" % c for c in at], 3)
    book.row(5, "Drawn, m3", ["=%s4/(1-losses)" % c for c in at], 3)
    book.row(6, "Tariff, EUR/m3", ["=ROUND(tariff*(1+rise)^(%s1-1),2)" % c for c in at], 3, "money")
    book.row(7, "Income", ["=%s4*%s6" % (c, c) for c in at], 3, "money")
    book.row(8, "Energy", ["=%s5*(energy_use+VLOOKUP(diameter,Pipes!$A$2:$C$6,3)*0.004)*energy_price*(1+inflation)^(%s1-1)" % (c, c) for c in at], 3, "money")
    book.row(9, "Staff", ["=staff*(1+inflation)^(%s1-1)" % c for c in at], 3, "money")
    book.row(10, "Pumps", ["=IF(%s1=pump_year,pump_cost,0)" % c for c in at], 3, "money")
    book.put("B11", "=pipe_length*(VLOOKUP(diameter,Pipes!$A$2:$C$6,2)+trench)", "money")
    book.put("A11", "Investment")
    book.row(12, "Loan", ["=IF(%s1<=loan_years,-PMT(loan_rate,loan_years,$B$11*loan_share),0)" % c for c in at], 3, "money")
    book.row(13, "Of it interest", ["=IF(%s1<=loan_years,-IPMT(loan_rate,%s1,loan_years,$B$11*loan_share),0)" % (c, c) for c in at], 3, "money")
    book.row(14, "Cash of the year", ["=%s7-SUM(%s8:%s10)-%s12" % (c, c, c, c) for c in at], 3, "money")
    book.put("B15", "=reserve-B11*(1-loan_share)", "money")
    book.row(15, "Cash", ["=%s15+%s14" % (b, c) for b, c in zip(before, at)], 3, "money")
    book.row(16, "Cash in money of today", ["=%s15/(1+inflation)^%s1" % (c, c) for c in at], 3, "money")
    book.row(17, "Bill of a household", ["=demand*%s6" % c for c in at], 3, "money")
    book.sheet("Result")
    book.put("A1", "Result")
    results = [
        ("Net present value", "=-Plan!B11*(1-loan_share)+NPV(discount,Plan!C14:Q14)", "money"),
        ("Lowest cash", "=MIN(Plan!B15:Q15)", "money"),
        ("Cash at the end", "=Plan!Q15", "money"),
        ("Year in which cash is highest", "=MATCH(MAX(Plan!C15:Q15),Plan!C15:Q15,0)", None),
        ("Cost of a cubic metre", "=(B14+Plan!B11/15)/SUM(Plan!C4:Q4)", "money"),
        ("The reserve is kept", "=B4>=0", None),
        ("Advice", "=IF(B8,\"keep the tariff\",\"raise the tariff\")", None),
        ("Interest in all", "=SUM(Plan!C13:Q13)", "money"),
        ("Rate of return", "=IF(SUM(B16:Q16)>0,IRR(B16:Q16),0)", "percent"),
    ]
    for i, (label, formula, shown) in enumerate(results):
        book.put("A%d" % (i + 3), label)
        book.put("B%d" % (i + 3), formula, shown)
    book.put("A14", "Running costs")
    book.put("B14", "=SUM(Plan!C8:Q10)/15", "money")
    book.put("A16", "Flows")
    book.put("B16", "=-Plan!B11*(1-loan_share)", "money")
    for i in years:
        book.put("%s16" % column(i + 2), "=Plan!%s14" % column(i + 2), "money")
    book.save("tariff", [("Inputs!B4", -0.01, 0.03), ("Inputs!B7", 0.9, 1.3), ("Inputs!B8", 0, 0.03), ("Inputs!B14", 150, 360), ("Inputs!B18", 5, 15),
                         ("Inputs!B20", 1, 15)], result_cells(3, 4, 5, 6, 7, 8, 9, 10, 11) + ["Plan!%s15" % column(i) for i in range(2, 18)])


def estimate():
    """A cost estimate of 300 items by category, conditional sums, a share for what is not foreseen."""
    book = Book("An estimate of 300 items")
    book.sheet("Inputs")
    kinds = ["civil", "pipes", "pumps", "control"]
    for i in range(300):
        book.put("A%d" % (i + 2), "item %d" % (i + 1))
        book.put("B%d" % (i + 2), kinds[i % 4])
        book.put("C%d" % (i + 2), 10 + (i * 37) % 90)
        book.put("D%d" % (i + 2), 1.5 + (i * 13) % 40)
        book.put("E%d" % (i + 2), "=C%d*D%d" % (i + 2, i + 2))
    book.put("G1", 0.08, "percent")
    book.put("G2", 1.04)
    book.sheet("Result")
    for i, kind in enumerate(kinds):
        book.put("A%d" % (i + 1), kind)
        book.put("B%d" % (i + 1), "=SUMIF(Inputs!$B$2:$B$301,A%d,Inputs!$E$2:$E$301)" % (i + 1))
        book.put("C%d" % (i + 1), "=COUNTIFS(Inputs!$B$2:$B$301,A%d,Inputs!$E$2:$E$301,\">1000\")" % (i + 1))
        book.put("D%d" % (i + 1), "=ROUNDUP(B%d/50,0)*50" % (i + 1))
    book.put("B6", "=SUM(B1:B4)*(1+Inputs!G1)*Inputs!G2")
    book.put("B7", "=LARGE(Inputs!E2:E301,1)+LARGE(Inputs!E2:E301,2)")
    book.put("B8", "=SUMPRODUCT((Inputs!E2:E301>500)*Inputs!E2:E301)")
    book.put("B9", "=MEDIAN(Inputs!E2:E301)")
    book.put("B10", "=IF(B6>450000,\"large\",\"small\")&\" \"&TEXT(B6,\"#,##0\")")
    book.put("B11", "=INDEX(Inputs!A2:A301,MATCH(MAX(Inputs!E2:E301),Inputs!E2:E301,0))")
    book.put("B12", "=SUBTOTAL(9,B1:B4)+AVERAGEIF(Inputs!B2:B301,\"p*\",Inputs!E2:E301)")
    book.save("estimate", [("Inputs!C5", 1, 400), ("Inputs!D12", 1, 300), ("Inputs!C33", 1, 900), ("Inputs!G1", 0, 0.3)],
              result_cells(1, 2, 3, 4, 6, 7, 8, 9, 10, 11, 12) + ["Result!C%d" % i for i in range(1, 5)] + ["Result!D1"])


def schedule():
    """Works with dates: working days, holidays, the latest of several."""
    book = Book("A schedule of 100 pieces of work")
    book.sheet("Inputs")
    book.put("B1", 46090, "date")
    for i, day in enumerate([46115, 46143, 46250]):
        book.put("D%d" % (i + 1), day, "date")
    for i in range(100):
        book.put("A%d" % (i + 3), "work %d" % (i + 1))
        book.put("B%d" % (i + 3), 5 + (i * 7) % 13)
    book.sheet("Plan")
    for i in range(100):
        row = i + 1
        after = [max(1, row - k) for k in (1, 3)]
        start = "=Inputs!B1" if i == 0 else "=WORKDAY(MAX(%s),1,Inputs!$D$1:$D$3)" % ",".join("B%d" % k for k in sorted(set(after)))
        book.put("A%d" % row, start, "date")
        book.put("B%d" % row, "=WORKDAY(A%d,ROUND(Inputs!B%d,0),Inputs!$D$1:$D$3)" % (row, i + 3), "date")
        book.put("C%d" % row, "=NETWORKDAYS(A%d,B%d,Inputs!$D$1:$D$3)" % (row, row))
    book.sheet("Result")
    book.put("B1", "=MAX(Plan!B1:B100)", "date")
    book.put("B2", "=B1-Inputs!B1")
    book.put("B3", "=YEAR(B1)*100+MONTH(B1)")
    book.put("B4", "=EOMONTH(B1,0)", "date")
    book.put("B5", "=WEEKDAY(B1,2)")
    book.put("B6", "=DATEDIF(Inputs!B1,B1,\"m\")")
    book.put("B7", "=SUM(Plan!C1:C100)*8/24")
    book.put("B8", "=IF(B1>DATE(2029,6,30),\"late\",\"in time\")")
    book.put("B9", "=YEARFRAC(Inputs!B1,B1)")
    book.put("B10", "=B1<=DATE(2029,6,30)")
    book.save("schedule", [("Inputs!B1", 46000, 46400), ("Inputs!B4", 1, 30), ("Inputs!B28", 1, 30), ("Inputs!B82", 1, 30)],
              result_cells(1, 2, 3, 4, 5, 6, 7, 8, 9, 10))


def measurement():
    """A meter against a tank: readings, a line of calibration, an interval."""
    book = Book("A flow meter against a tank")
    book.sheet("Inputs")
    for i in range(10):
        book.put("A%d" % (i + 2), 2 + 4 * i)
        book.put("B%d" % (i + 2), round(2.02 + 3.98 * i + 0.05 * ((i * 7) % 5 - 2), 3))
    for i, (label, value) in enumerate([("tank, m3", 12.5), ("time, s", 301.2), ("reading, L/s", 41.7), ("drift", 0.02), ("limit", 0.5)]):
        book.put("D%d" % (i + 1), label)
        book.put("E%d" % (i + 1), value)
    book.sheet("Result")
    formulas = ["=SLOPE(Inputs!B2:B11,Inputs!A2:A11)", "=INTERCEPT(Inputs!B2:B11,Inputs!A2:A11)", "=(Inputs!E3-B2)/B1-Inputs!E4",
                "=1000*Inputs!E1/Inputs!E2", "=B3-B4", "=ABS(B5)<=Inputs!E5", "=STDEV(Inputs!B2:B11)/SQRT(COUNT(Inputs!B2:B11))",
                "=NORMSDIST((Inputs!E5-B5)/0.2)-NORMSDIST((-Inputs!E5-B5)/0.2)", "=TINV(0.05,9)*B7", "=CORREL(Inputs!A2:A11,Inputs!B2:B11)^2",
                "=IF(B5<0,-SQRT(-B5),SQRT(B5))", "=EXP(LN(B4)/3)+MOD(B4,7)+INT(-B4)+ROUND(B4,-1)", "=CHOOSE(1+(B5>0),\"low\",\"high\")"]
    for i, formula in enumerate(formulas):
        book.put("B%d" % (i + 1), formula)
    book.save("measurement", [("Inputs!B5", 13, 15), ("Inputs!E1", 12, 13), ("Inputs!E2", 290, 310), ("Inputs!E3", 40, 43)],
              result_cells(*range(1, 14)))


def supply():
    """1,000 days of a store: 5,000 formulas that follow each other."""
    book = Book("A store over 1,000 days")
    book.sheet("Inputs")
    for i, (label, value) in enumerate([("demand", 40), ("swing", 12), ("order below", 150), ("order", 260), ("days of delivery", 3),
                                        ("price", 4.2), ("holding", 0.01), ("short", 9), ("opening", 300), ("growth a day", 0.0002)]):
        book.put("A%d" % (i + 1), label)
        book.put("B%d" % (i + 1), value)
    book.sheet("Days")
    book.row(1, "day", ["demand", "arrives", "stock", "ordered", "cost"])
    for day in range(1, 1001):
        row = day + 1
        book.put("A%d" % row, day)
        book.put("B%d" % row, "=MAX(0,Inputs!$B$1*(1+Inputs!$B$10)^A%d+Inputs!$B$2*SIN(A%d*0.7))" % (row, row))
        book.put("C%d" % row, 0 if day <= 5 else "=INDEX(E$2:E%d,A%d-ROUND(Inputs!$B$5,0))" % (row - 1, row))
        book.put("D%d" % row, "=%s+C%d-MIN(B%d,%s+C%d)" % ("Inputs!$B$9" if day == 1 else "D%d" % (row - 1), row, row,
                                                      "Inputs!$B$9" if day == 1 else "D%d" % (row - 1), row))
        book.put("E%d" % row, "=IF(AND(D%d<Inputs!$B$3,SUM(E%d:E%d)=0),Inputs!$B$4,0)" % (row, max(2, row - 3), row - 1) if day > 1 else "=IF(D2<Inputs!$B$3,Inputs!$B$4,0)")
        book.put("F%d" % row, "=D%d*Inputs!$B$7+IF(D%d<=0,Inputs!$B$8*B%d,0)+E%d*Inputs!$B$6/100" % (row, row, row, row))
    book.sheet("Result")
    for i, formula in enumerate(["=SUM(Days!F2:F1001)", "=MIN(Days!D2:D1001)", "=COUNTIF(Days!D2:D1001,0)", "=AVERAGE(Days!D2:D1001)",
                                 "=SUMIFS(Days!F2:F1001,Days!A2:A1001,\">500\",Days!D2:D1001,\">0\")", "=IFERROR(MATCH(0,Days!D2:D1001,0),0)"]):
        book.put("B%d" % (i + 1), formula)
    book.save("supply", [("Inputs!B1", 20, 70), ("Inputs!B2", 0, 30), ("Inputs!B3", 50, 250), ("Inputs!B5", 1, 5), ("Inputs!B10", -0.0002, 0.0004)],
              result_cells(*range(1, 7)))


def loans():
    """250 loans over 20 terms: 5,000 formulas that hang on a curve of rates."""
    book = Book("250 loans")
    book.sheet("Inputs")
    for i, value in enumerate([0.031, 0.034, 0.038, 0.041, 0.043, 0.4, 0.02]):
        book.put("B%d" % (i + 1), value, "percent")
    book.sheet("Loans")
    for i in range(250):
        row = i + 2
        book.put("A%d" % row, 20000 + (i * 7919) % 180000)
        book.put("B%d" % row, 5 + (i * 11) % 16)
        book.put("C%d" % row, "=VLOOKUP(B%d,Curve!$A$1:$B$5,2,TRUE)" % row)
        book.put("D%d" % row, "=-PMT(C%d,B%d,A%d)" % (row, row, row))
        for k in range(1, 18):
            book.put("%s%d" % (column(4 + k), row), "=IF(%d<=$B%d,$D%d*(1-Inputs!$B$7)^%d*(1-Inputs!$B$6*0.01)/(1+Inputs!$B$1)^%d,0)" % (k, row, row, k, k))
        book.put("V%d" % row, "=SUM(E%d:U%d)-A%d" % (row, row, row))
    book.sheet("Curve")
    for i, term in enumerate([1, 6, 10, 14, 18]):
        book.put("A%d" % (i + 1), term)
        book.put("B%d" % (i + 1), "=Inputs!B%d" % (i + 1))
    book.sheet("Result")
    for i, formula in enumerate(["=SUM(Loans!V2:V251)", "=COUNTIF(Loans!V2:V251,\"<0\")", "=SUMPRODUCT(Loans!A2:A251,Loans!C2:C251)/SUM(Loans!A2:A251)",
                                 "=PERCENTILE(Loans!V2:V251,0.05)", "=SUMIF(Loans!V2:V251,\"<0\")", "=MAX(Loans!D2:D251)"]):
        book.put("B%d" % (i + 1), formula)
    book.save("loans", [("Inputs!B1", 0.01, 0.06), ("Inputs!B3", 0.01, 0.08), ("Inputs!B6", 0, 1), ("Inputs!B7", 0, 0.06)], result_cells(*range(1, 7)))


if __name__ == "__main__":
    for make in (tariff, estimate, schedule, measurement, supply, loans):
        make()
