# The boat shed in Rails for APIs: models of ActiveModel, in the environment that a developer runs.
ENV["RAILS_ENV"] = "development"
require "action_controller/railtie"
require "active_model"
require "rack/handler/puma"

class Shed < Rails::Application
  config.root = __dir__
  config.api_only = true
  config.eager_load = false
  config.consider_all_requests_local = true
  config.debug_exception_response_format = :api
  config.secret_key_base = "made-up"
  config.hosts.clear
  config.logger = Logger.new(File::NULL)
end

class Boat
  include ActiveModel::Model
  attr_accessor :id, :name, :length_m, :kind, :owner, :built, :crew
  validates :name, presence: true, length: { maximum: 40 }
  validates :length_m, numericality: { greater_than_or_equal_to: 1, less_than_or_equal_to: 60 }
  validates :kind, inclusion: { in: %w[sail motor row] }
  validates :owner, presence: true
  validate { errors.add(:"owner.email", "is invalid") if owner.present? && owner["email"].to_s !~ /\A[^@ ]+@[^@ ]+\z/ }
  validate { errors.add(:built, "is not a date") if built.present? && !(Date.iso8601(built) rescue false) }
  validate do
    Array(crew).each_with_index do |sailor, i|
      errors.add(:"crew[#{i}].name", "can't be blank") if sailor["name"].blank?
      errors.add(:"crew[#{i}].role", "is not included in the list") unless %w[skipper hand].include?(sailor["role"])
    end
  end
  def as_json(*) = { id: id, name: name, length_m: length_m, kind: kind, owner: owner, built: built, crew: crew }.compact
end

BOATS = %w[Tern Heron Plover].each_with_index.to_h do |name, i|
  [i + 1, Boat.new(id: i + 1, name: name, length_m: 7.5, kind: "sail", owner: { "email" => "mira@reedmarsh.example" })]
end
LAUNCHED = Set.new

class BoatsController < ActionController::API
  include ActionController::HttpAuthentication::Token::ControllerMethods
  wrap_parameters false
  before_action :find, only: %i[show update destroy launch survey]

  def index
    limit = params.fetch(:limit, "20")
    return invalid(limit: ["must be from 1 to 100"]) unless limit =~ /\A\d+\z/ && limit.to_i.between?(1, 100)
    return invalid(kind: ["is not included in the list"]) unless [nil, "sail", "motor", "row"].include?(params[:kind])
    render json: BOATS.values.select { |boat| [nil, boat.kind].include?(params[:kind]) }.first(limit.to_i)
  end

  def create
    boat = Boat.new(**asked)
    return invalid(boat.errors.to_hash) unless boat.valid?
    boat.id = BOATS.keys.max + 1
    BOATS[boat.id] = boat
    render json: boat, status: :created, location: "/boats/#{boat.id}"
  end

  def show = render(json: @boat)

  def update
    boat = Boat.new(**asked, id: @boat.id)
    return invalid(boat.errors.to_hash) unless boat.valid?
    render json: (BOATS[boat.id] = boat)
  end

  def destroy
    BOATS.delete(@boat.id)
    head :no_content
  end

  def launch
    return invalid(tide: ["is not a number"]) unless params.require(:tide).is_a?(Integer)
    return render(json: { error: "The boat is launched already" }, status: :conflict) unless LAUNCHED.add?(@boat.id)
    render json: { id: @boat.id, tide: params[:tide] }
  end

  def survey = render(json: { id: @boat.id, frames: @boat.hull.frames })

  def logbook
    authenticate_or_request_with_http_token { |token| token == "made-up-token" } && render(json: { entries: [] })
  end

  private

  def asked = params.permit(:name, :length_m, :kind, :built, owner: {}, crew: [:name, :role]).to_h.symbolize_keys
  def invalid(errors) = render(json: errors, status: :unprocessable_entity)

  def find
    @boat = BOATS[params[:id].to_i] || raise(ActionController::RoutingError, "There is no boat #{params[:id]}")
  end
end

Shed.initialize!
Rails.application.routes.draw do
  resources :boats, only: %i[index create show update destroy] do
    post :launch, on: :member
    get :survey, on: :member
  end
  get "/logbook", to: "boats#logbook"
end
Rack::Handler::Puma.run(Rails.application, Port: ARGV[0].to_i, Host: "127.0.0.1", Silent: true)
